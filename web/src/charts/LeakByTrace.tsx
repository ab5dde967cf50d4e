import { scaleLinear } from "d3-scale";
import type { Schemas } from "../api/client";
import { plain, useUnits } from "../units/units";
import { path, tickText, timeTicks } from "./axis";
import { Frame, Levels, sampled } from "./Frame";

const LEFT = 58;
const RIGHT = 14;

/** Both halves on one axis: what one loses the other should gain. */
export function LeakByTrace({
  verdict,
  height = 230,
}: {
  verdict: Schemas["Verdict"];
  height?: number;
}) {
  const units = useUnits();
  const points = verdict.trace;
  const psi = (pa: number) => units.of("pressure", pa);
  const first = points[0];
  const [from, to] = [
    first?.at_s ?? 0,
    Math.max(points.at(-1)?.at_s ?? 1, (first?.at_s ?? 0) + 60),
  ];
  const all = points.flatMap((p) => [
    psi(p.value),
    psi(p.corrected ?? p.value),
  ]);
  const y = scaleLinear(
    [Math.min(...all, 0), Math.max(...all)],
    [height - 26, 10],
  ).nice(5);
  const x = (w: number) => scaleLinear([from, to], [LEFT, w - RIGHT]);
  const say = (i: number) => {
    const p = points[i];
    return p
      ? `${tickText(Math.round(p.at_s - from))}  half A ${plain(psi(p.value))}  half B ${plain(psi(p.corrected ?? 0))} ${units.label("pressure")}`
      : "";
  };
  const last = points.at(-1);
  return (
    <Frame
      summary={`Pressures of both halves. ${verdict.word}: ${verdict.headline}.`}
      height={height}
      xs={(w) => points.map((p) => x(w)(p.at_s))}
      say={say}
      table={{
        head: [
          "time",
          `half A, ${units.label("pressure")}`,
          `half B, ${units.label("pressure")}`,
        ],
        rows: sampled(points, 24).map((p) => [
          tickText(Math.round(p.at_s - from)),
          plain(psi(p.value)),
          plain(psi(p.corrected ?? 0)),
        ]),
      }}
      draw={(width, at) => (
        <>
          <Levels at={y.ticks(5)} y={y} left={LEFT} right={width - RIGHT} />
          {timeTicks(0, to - from, width / 90).map((t) => (
            <text
              key={t}
              x={Math.min(x(width)(t + from), width - 22)}
              y={height - 4}
              textAnchor="middle"
            >
              {tickText(t)}
            </text>
          ))}
          <path
            d={path(points.map((p) => [x(width)(p.at_s), y(psi(p.value))]))}
            stroke="var(--accent)"
            strokeWidth={3}
            fill="none"
          />
          <path
            d={path(
              points.map((p) => [x(width)(p.at_s), y(psi(p.corrected ?? NaN))]),
            )}
            stroke="var(--losing)"
            strokeWidth={3}
            strokeDasharray="8 4"
            fill="none"
          />
          {last && (
            <text
              x={width - RIGHT - 4}
              y={y(psi(last.value)) - 8}
              textAnchor="end"
              fontWeight={600}
            >
              half A
            </text>
          )}
          {last && (
            <text
              x={width - RIGHT - 4}
              y={y(psi(last.corrected ?? 0)) - 8}
              textAnchor="end"
              fontWeight={600}
            >
              half B
            </text>
          )}
          {at !== null && points[at] && (
            <line
              x1={x(width)(points[at].at_s)}
              x2={x(width)(points[at].at_s)}
              y1={0}
              y2={height - 22}
              stroke="var(--ink)"
            />
          )}
        </>
      )}
    />
  );
}
