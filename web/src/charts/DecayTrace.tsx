import { scaleLinear, scaleLog } from "d3-scale";
import { useState } from "react";
import type { Schemas } from "../api/client";
import { plain, span, useUnits } from "../units/units";
import { path, tickText, timeTicks } from "./axis";
import { Frame, Levels, sampled, Toggle } from "./Frame";

const LEFT = 62;
const RIGHT = 14;
const DASHES = ["9 5", "2 5", "12 4 2 4"];
/** The level since isolation with its limit, the explanations as forecasts, and where they come apart. */
export function DecayTrace({
  verdict,
  argued,
  height = 270,
}: {
  verdict: Schemas["Verdict"];
  argued?: Schemas["ArguedView"] | null | undefined;
  height?: number;
}) {
  const units = useUnits();
  const [isLog, setLog] = useState(false);
  const decay = verdict.decay;
  const explained = decay?.explanations ?? verdict.rig?.explanations ?? [];
  const zero =
    decay?.isolated_at_s ??
    verdict.rig?.isolated_at_s ??
    verdict.trace[0]?.at_s ??
    0;
  const points = verdict.trace.filter(
    (p) => p.at_s >= zero - 120 || decay?.isolated_at_s == null,
  );
  const level = (pa: number) => units.of("vacuum", pa);
  const last = points.at(-1)?.at_s ?? zero + 60;
  const standing = explained.filter((e) => e.probability >= 0.05).slice(0, 3);
  const isDecay = verdict.kind === "vacuum-decay";
  const end = Math.max(
    last,
    isDecay ? zero + (decay?.limit_at_s ?? 0) * 1.15 : last,
    zero + 60,
  );
  const begin = Math.min(points[0]?.at_s ?? zero, zero);
  const limit = level(decay?.limit_level_pa ?? 0);
  const shown = points.map((p) => level(p.value));
  const ahead = standing.flatMap((e) =>
    e.curve.filter((p) => p.at_s <= end).map((p) => level(p.value)),
  );
  const top = Math.max(
    isDecay ? limit * 1.12 : 0,
    ...shown,
    ...ahead.filter((v) => v < limit * 3 || !isDecay),
    10,
  );
  const bottom = Math.min(...shown.filter((v) => v > 0), limit || Infinity);
  const range: [number, number] = [height - 26, 18];
  const y = isLog
    ? scaleLog([Math.max(1e-3, bottom * 0.7), top * 1.2], range)
    : scaleLinear([0, top], range).nice(5);
  const ticks = isLog
    ? y.ticks().filter((v) => /^[125]/.test(v.toExponential()))
    : y.ticks(5);
  const xOf = (w: number) => scaleLinear([begin, end], [LEFT, w - RIGHT]);
  const unit = units.label("vacuum");
  const start = points.find((p) => p.at_s >= zero)?.value ?? 0;
  const wedge = argued?.wedge;
  const say = (i: number) =>
    points[i]
      ? `${tickText(Math.round(points[i].at_s - zero))}  ${plain(level(points[i].value), 4)} ${unit}`
      : "";
  return (
    <Frame
      summary={`Vacuum since isolation. ${verdict.word}: ${verdict.headline}.`}
      height={height}
      xs={(w) => points.map((p) => xOf(w)(p.at_s))}
      say={say}
      extra={
        <Toggle isSelected={isLog} onChange={setLog}>
          Log scale
        </Toggle>
      }
      table={{
        head: ["since isolation", unit],
        rows: sampled(points, 24).map((p) => [
          tickText(Math.round(p.at_s - zero)),
          plain(level(p.value), 4),
        ]),
      }}
      draw={(width, at) => {
        const x = xOf(width);
        const rule = x(zero + (decay?.limit_at_s ?? 0));
        const apart = decay?.comes_apart_s;
        // Where the trace is not: low when it ends high, under the limit when it ends low.
        const endsHigh = y(shown.at(-1) ?? 0) < height * 0.45;
        const legend = endsHigh
          ? height - 86
          : Math.max(30, isDecay ? y(limit) + 20 : 30);
        return (
          <>
            <defs>
              <clipPath id="decay-clip">
                <rect
                  x={LEFT}
                  y={0}
                  width={width - LEFT - RIGHT}
                  height={height - 24}
                />
              </clipPath>
            </defs>
            <Levels at={ticks} y={y} left={LEFT} right={width - RIGHT} />
            <text x={LEFT + 4} y={12} fontWeight={600}>
              {unit}
            </text>
            {timeTicks(begin - zero, end - zero, width / 90).map((t) => (
              <text key={t} x={x(t + zero)} y={height - 6} textAnchor="middle">
                {tickText(t)}
              </text>
            ))}
            {isDecay && (
              <>
                <path
                  d={path([
                    [x(zero), y(limit)],
                    [rule, y(limit)],
                    [rule, height - 26],
                  ])}
                  fill="none"
                  stroke="var(--notch)"
                  strokeWidth={2}
                  strokeDasharray="2 5"
                />
                <text x={rule - 6} y={y(limit) - 6} textAnchor="end">
                  limit after {span(decay?.limit_at_s ?? 0)}
                </text>
              </>
            )}
            <g clipPath="url(#decay-clip)">
              {wedge && (
                <g fill="var(--holds)">
                  <path
                    d={path([
                      [x(zero), y(level(start))],
                      [
                        x(end),
                        y(level(start + wedge.careful_pa_s * (end - zero))),
                      ],
                      [x(end), y(level(start))],
                    ])}
                    opacity={0.12}
                  >
                    <title>{`The most ${wedge.hold} allows, careful`}</title>
                  </path>
                  <path
                    d={path([
                      [x(zero), y(level(start))],
                      [
                        x(end),
                        y(level(start + wedge.likely_pa_s * (end - zero))),
                      ],
                      [x(end), y(level(start))],
                    ])}
                    opacity={0.3}
                  >
                    <title>{`The most ${wedge.hold} allows, likely`}</title>
                  </path>
                </g>
              )}
              {argued?.overlays.map((o) => (
                <path
                  key={o.title}
                  d={path(
                    o.points.map((p) => [x(zero + p.at_s), y(level(p.value))]),
                  )}
                  fill="none"
                  stroke="var(--edge)"
                  strokeWidth={2}
                >
                  <title>{o.title}</title>
                </path>
              ))}
              {standing.map((e, i) => (
                <path
                  key={e.cause}
                  d={path(e.curve.map((p) => [x(p.at_s), y(level(p.value))]))}
                  fill="none"
                  stroke="var(--soft)"
                  strokeWidth={1.8}
                  strokeDasharray={DASHES[i] ?? "2 5"}
                />
              ))}
              <path
                d={path(points.map((p) => [x(p.at_s), y(level(p.value))]))}
                fill="none"
                stroke="var(--accent)"
                strokeWidth={3}
              />
            </g>
            {standing.map((e, i) => (
              <g
                key={e.cause}
                transform={`translate(${width - RIGHT - 200} ${legend + i * 18})`}
              >
                <path
                  d="M0 -4h34"
                  stroke="var(--soft)"
                  strokeWidth={1.8}
                  strokeDasharray={DASHES[i] ?? "2 5"}
                />
                <text x={42}>{e.title}</text>
              </g>
            ))}
            {argued?.overlays.map((o) => {
              const p = o.points
                .filter((q) => q.at_s + zero <= end && y(level(q.value)) > 34)
                .at(-1);
              return p ? (
                <text
                  key={o.title}
                  x={Math.min(x(zero + p.at_s), width - RIGHT - 4)}
                  y={y(level(p.value)) - 5}
                  textAnchor="end"
                >
                  {o.title}
                </text>
              ) : null;
            })}
            {wedge && (
              <text x={LEFT + 6} y={height - 34}>
                shaded: what {wedge.hold} still allows
              </text>
            )}
            {apart != null && apart + zero < end && (
              <g>
                <line
                  x1={x(apart + zero)}
                  x2={x(apart + zero)}
                  y1={20}
                  y2={height - 26}
                  stroke="var(--edge)"
                  strokeDasharray="1 4"
                />
                <text x={x(apart + zero) + 4} y={30}>
                  come apart
                </text>
              </g>
            )}
            {at !== null && points[at] && (
              <line
                x1={x(points[at].at_s)}
                x2={x(points[at].at_s)}
                y1={16}
                y2={height - 24}
                stroke="var(--ink)"
              />
            )}
          </>
        );
      }}
    />
  );
}
