import { scaleLinear, scaleLog } from "d3-scale";
import type { Schemas } from "../../api/client";
import { path, tickText, timeTicks } from "../../charts/axis";
import { Frame, Levels, sampled } from "../../charts/Frame";
import { plain, useUnits } from "../../units/units";

const LEFT = 62;
const RIGHT = 14;

/** What the gauge showed, what was true, and what would have been true had neither temperature nor barometer moved. */
export function TruthTrace({
  points,
  isVacuum,
  until,
  summary,
  height = 250,
}: {
  points: Schemas["DrillPoint"][];
  isVacuum: boolean;
  /** Drawn so far, s: a replay. */
  until?: number;
  summary: string;
  height?: number;
}) {
  const units = useUnits();
  const kind = isVacuum ? "vacuum" : "pressure";
  const level = (pa: number | null | undefined) =>
    pa == null ? NaN : units.of(kind, pa);
  const seen = points.filter((p) => until === undefined || p.at_s <= until);
  // Let out and pressed up again, the small changes in between are what is looked for: the way down is cut off.
  const most = Math.max(...points.map((p) => p.truly));
  const isIn = (p: Schemas["DrillPoint"]) => isVacuum || p.truly > 0.8 * most;
  const all = points
    .filter(isIn)
    .flatMap((p) => [level(p.shown), level(p.truly), level(p.still)])
    .filter((v) => Number.isFinite(v) && (!isVacuum || v > 0));
  const [low, high] = [Math.min(...all), Math.max(...all)];
  const room = Math.max(0.08 * (high - low), isVacuum ? 0 : 0.6);
  const range = [height - 26, 18];
  const y = isVacuum
    ? scaleLog([Math.max(1, low * 0.8), high * 1.2], range)
    : scaleLinear([low - room, high + room], range);
  const end = points.at(-1)?.at_s ?? 60;
  const xOf = (w: number) =>
    scaleLinear([0, Math.max(60, end)], [LEFT, w - RIGHT]);
  const ticks = isVacuum
    ? y.ticks().filter((v) => /^[125]/.test(v.toExponential()))
    : y.ticks(5);
  const unit = units.label(kind);
  return (
    <Frame
      summary={summary}
      height={height}
      xs={(w) => seen.map((p) => xOf(w)(p.at_s))}
      say={(i) =>
        seen[i]
          ? `${tickText(Math.round(seen[i].at_s))}  shown ${plain(level(seen[i].shown), 4)}, true ${plain(level(seen[i].truly), 4)} ${unit}`
          : ""
      }
      table={{
        head: [
          "since you came",
          "shown",
          "true",
          "true, if temperature had stayed the same",
        ],
        rows: sampled(seen, 24).map((p) => [
          tickText(Math.round(p.at_s)),
          ...[p.shown, p.truly, p.still].map((v) => plain(level(v), 4)),
        ]),
      }}
      draw={(width, at) => {
        const x = xOf(width);
        const line = (of: (p: Schemas["DrillPoint"]) => number) =>
          path(seen.map((p) => [x(p.at_s), isIn(p) ? y(of(p)) : NaN]));
        return (
          <>
            <Levels at={ticks} y={y} left={LEFT} right={width - RIGHT} />
            <text x={LEFT + 4} y={12} fontWeight={600}>
              {unit}
            </text>
            {timeTicks(0, end, width / 90).map((t) => (
              <text key={t} x={x(t)} y={height - 6} textAnchor="middle">
                {tickText(t)}
              </text>
            ))}
            <path
              d={line((p) => level(p.truly))}
              fill="none"
              stroke="var(--notch)"
              strokeWidth={5}
              opacity={0.5}
            />
            <path
              d={line((p) => level(p.still))}
              fill="none"
              stroke="var(--ink)"
              strokeWidth={2}
              strokeDasharray="7 5"
            />
            <path
              d={line((p) => level(p.shown))}
              fill="none"
              stroke="var(--accent)"
              strokeWidth={2}
            />
            {at !== null && seen[at] && (
              <line
                className="zero"
                x1={x(seen[at].at_s)}
                x2={x(seen[at].at_s)}
                y1={18}
                y2={height - 26}
              />
            )}
          </>
        );
      }}
    />
  );
}
