import { scaleLinear } from "d3-scale";
import type { Schemas } from "../api/client";
import { plain, trimmed, useUnits } from "../units/units";
import { path, tickText, timeTicks } from "./axis";
import { Frame, sampled } from "./Frame";

const LEFT = 58;
const RIGHT = 12;
const STRIP = 54;

/** Change since the settled start: corrected with its ribbon, raw thin, limit and what could still hide shaded,
 * temperature below. */
export function HoldTrace({
  verdict,
  planned,
  height = 250,
}: {
  verdict: Schemas["Verdict"];
  planned: number | null;
  height?: number;
}) {
  const units = useUnits();
  const hold = verdict.hold;
  const settled = hold?.settled_at_s ?? null;
  const points = verdict.trace;
  const psi = units.unit("psi")?.factor ?? 1;
  const from = settled ?? points[0]?.at_s ?? 0;
  const last = points.at(-1)?.at_s ?? 1;
  const end = Math.max(
    last,
    settled !== null && planned ? settled + planned : last,
    from + 60,
  );
  const begin = points[0]?.at_s ?? 0;
  const dp = (pa: number) => units.delta("pressure", pa);
  const limit = (hold?.limit_rate ?? 0) * (psi / 3600);
  const bound = (rate: number | undefined) => ((rate ?? 0) * psi) / 3600;
  const hasTemperature = points.some((p) => p.temperature_k != null);
  const main = height - (hasTemperature ? STRIP + 12 : 0) - 22;

  // What matters happens after settling; the filling's large fall is cut off rather than shrinking the rest.
  const seen = points.filter((p) => p.at_s >= from);
  const values = [
    0,
    -limit * (end - from),
    limit * (end - from) * 0.35,
    ...seen.flatMap((p) => [p.value, p.corrected ?? p.value]),
  ].map(dp);
  const y = scaleLinear(
    [Math.min(...values), Math.max(...values)],
    [main - 6, 6],
  ).nice(5);
  const temps = points.map((p) =>
    p.temperature_k == null ? NaN : units.of("temperature", p.temperature_k),
  );
  const finite = temps.filter(Number.isFinite);
  const mid = finite.length
    ? (Math.min(...finite) + Math.max(...finite)) / 2
    : 0;
  const reach = Math.max(
    1,
    finite.length ? (Math.max(...finite) - Math.min(...finite)) / 2 : 1,
  );
  const yt = scaleLinear(
    [mid - reach, mid + reach],
    [height - 26, height - 20 - STRIP],
  );
  const xOf = (width: number) =>
    scaleLinear([begin, end], [LEFT, width - RIGHT]);
  const unit = units.deltaLabel("pressure");
  const minute = (s: number) => tickText(Math.round(s - from));
  const say = (i: number) => {
    const p = points[i];
    if (!p) return "";
    const t =
      p.temperature_k == null
        ? ""
        : `  ${plain(units.of("temperature", p.temperature_k))} ${units.label("temperature")}`;
    const corrected =
      p.corrected == null
        ? ""
        : `  corrected ${plain(dp(p.corrected), 2)} ±${plain(dp(p.ribbon ?? 0), 2)}`;
    return `${minute(p.at_s)}  raw ${plain(dp(p.value), 2)}${corrected} ${unit}${t}`;
  };
  return (
    <Frame
      summary={`Change of pressure since ${settled === null ? "the first reading" : "it settled"}. ${verdict.word}: ${verdict.headline}.`}
      height={height}
      xs={(w) => points.map((p) => xOf(w)(p.at_s))}
      say={say}
      table={{
        head: [
          "time",
          `raw, ${unit}`,
          `corrected, ${unit}`,
          `temperature, ${units.label("temperature")}`,
        ],
        rows: sampled(points, 24).map((p) => [
          minute(p.at_s),
          plain(dp(p.value), 2),
          p.corrected == null ? "—" : plain(dp(p.corrected), 2),
          p.temperature_k == null
            ? "—"
            : plain(units.of("temperature", p.temperature_k)),
        ]),
      }}
      draw={(width, at) => {
        const x = xOf(width);
        const wedge = hold?.loss && settled !== null;
        const tip = hold?.loss
          ? {
              low: dp(-bound(hold.loss.low) * (last - from)),
              high: dp(-bound(hold.loss.high) * (last - from)),
            }
          : null;
        return (
          <>
            <defs>
              <clipPath id="hold-clip">
                <rect
                  x={LEFT}
                  y={0}
                  width={width - LEFT - RIGHT}
                  height={main}
                />
              </clipPath>
              <pattern
                id="hold-hatch"
                width="7"
                height="7"
                patternUnits="userSpaceOnUse"
                patternTransform="rotate(45)"
              >
                <path d="M0 0v7" stroke="var(--line)" strokeWidth="3" />
              </pattern>
            </defs>
            {y.ticks(Math.min(5, main / 26)).map((v) => (
              <g key={v}>
                <line
                  className={v === 0 ? "zero" : "tick"}
                  x1={LEFT}
                  x2={width - RIGHT}
                  y1={y(v)}
                  y2={y(v)}
                />
                <text x={LEFT - 8} y={y(v) + 4} textAnchor="end">
                  {v > 0 ? "+" : ""}
                  {trimmed(v, 3)}
                </text>
              </g>
            ))}
            <text
              x={width - RIGHT - 4}
              y={14}
              fontWeight={600}
              textAnchor="end"
            >
              {unit} since {settled === null ? "first reading" : "settled"}
            </text>
            {timeTicks(begin - from, end - from, width / 90).map((t) => (
              <text
                key={t}
                x={Math.min(x(t + from), width - 22)}
                y={height - 4}
                textAnchor="middle"
              >
                {tickText(t)}
              </text>
            ))}
            <g clipPath="url(#hold-clip)">
              {from > begin && (
                <rect
                  x={LEFT}
                  y={0}
                  width={x(from) - LEFT}
                  height={main}
                  fill="url(#hold-hatch)"
                />
              )}
              {limit > 0 && (
                <path
                  d={`${path([
                    [x(from), y(0)],
                    [x(end), y(dp(-limit * (end - from)))],
                  ])}L${x(end)} ${main}L${x(from)} ${main}Z`}
                  fill="var(--shade)"
                />
              )}
              {limit > 0 && (
                <path
                  d={path([
                    [x(from), y(0)],
                    [x(end), y(dp(-limit * (end - from)))],
                  ])}
                  stroke="var(--falling)"
                  strokeWidth={2}
                  strokeDasharray="2 5"
                  fill="none"
                />
              )}
              {wedge && tip && (
                <path
                  d={`${path([
                    [x(from), y(0)],
                    [x(last), y(tip.low)],
                    [x(last), y(tip.high)],
                  ])}Z`}
                  fill="var(--accent)"
                  opacity={0.1}
                />
              )}
              <path
                d={`${path(points.filter((p) => p.corrected != null).map((p) => [x(p.at_s), y(dp((p.corrected ?? 0) + (p.ribbon ?? 0)))]))}${path(
                  points
                    .filter((p) => p.corrected != null)
                    .reverse()
                    .map((p) => [
                      x(p.at_s),
                      y(dp((p.corrected ?? 0) - (p.ribbon ?? 0))),
                    ]),
                ).replace("M", "L")}Z`}
                fill="var(--ribbon)"
              />
              <path
                d={path(points.map((p) => [x(p.at_s), y(dp(p.value))]))}
                stroke="var(--soft)"
                strokeWidth={1.2}
                fill="none"
              />
              <path
                d={path(
                  points.map((p) => [
                    x(p.at_s),
                    p.corrected == null ? NaN : y(dp(p.corrected)),
                  ]),
                )}
                stroke="var(--accent)"
                strokeWidth={3}
                fill="none"
              />
            </g>
            {limit > 0 && (
              <text
                x={width - RIGHT - 4}
                y={Math.min(main - 4, y(dp(-limit * (end - from))) + 16)}
                textAnchor="end"
              >
                limit
              </text>
            )}
            {from > begin && x(from) - LEFT > 60 && (
              <text x={LEFT + 6} y={main - 8}>
                settling
              </text>
            )}
            {hasTemperature && (
              <>
                <line
                  className="tick"
                  x1={LEFT}
                  x2={width - RIGHT}
                  y1={height - 22 - STRIP}
                  y2={height - 22 - STRIP}
                />
                <path
                  d={path(
                    points.map((p, i) => [x(p.at_s), yt(temps[i] ?? NaN)]),
                  )}
                  stroke="var(--losing)"
                  strokeWidth={2}
                  fill="none"
                />
                <text x={LEFT - 8} y={yt(mid + reach) + 10} textAnchor="end">
                  {plain(mid + reach, 3)}
                </text>
                <text x={LEFT - 8} y={yt(mid - reach)} textAnchor="end">
                  {plain(mid - reach, 3)}
                </text>
                <text
                  x={width - RIGHT - 4}
                  y={height - 22 - STRIP + 14}
                  textAnchor="end"
                >
                  pipe {units.label("temperature")}
                </text>
              </>
            )}
            {at !== null && points[at] && (
              <line
                x1={x(points[at].at_s)}
                x2={x(points[at].at_s)}
                y1={0}
                y2={height - 20}
                stroke="var(--ink)"
              />
            )}
          </>
        );
      }}
    />
  );
}
