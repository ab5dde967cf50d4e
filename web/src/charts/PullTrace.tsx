import { scaleLinear, scaleLog } from "d3-scale";
import type { Schemas } from "../api/client";
import { plain, trimmed, useUnits } from "../units/units";
import { path, tickText, timeTicks } from "./axis";
import { Frame, Levels, sampled } from "./Frame";

const LEFT = 62;
const RIGHT = 14;

/** The way down on a logarithmic scale: the target of each pull, breaks, and when it should arrive. */
export function PullTrace({
  verdict,
  height = 270,
}: {
  verdict: Schemas["Verdict"];
  height?: number;
}) {
  const units = useUnits();
  const pull = verdict.pull;
  const points = verdict.trace.filter((p) => p.value > 0);
  const level = (pa: number) => units.of("vacuum", pa);
  const begin = points[0]?.at_s ?? 0;
  const last = points.at(-1)?.at_s ?? begin + 60;
  const {
    arrival_low_s: low,
    arrival_s: mid,
    arrival_high_s: high,
    target_pa: target,
  } = pull ?? { target_pa: 66.66 };
  // Room for the arrival, but never so much that the trace itself is squeezed away.
  const end = Math.max(
    last,
    begin + 60,
    Math.min(high ?? mid ?? last, begin + 2.2 * (last - begin)),
  );
  const shown = points.map((p) => level(p.value));
  const y = scaleLog(
    [
      Math.min(...shown, level(target)) * 0.6,
      Math.max(...shown, level(target)) * 1.3,
    ],
    [height - 26, 18],
  );
  const xOf = (w: number) => scaleLinear([begin, end], [LEFT, w - RIGHT]);
  const unit = units.label("vacuum");
  const ticks = y.ticks().filter((v) => /^[125]/.test(v.toExponential()));
  return (
    <Frame
      summary={`The pull-down. ${verdict.word}: ${verdict.headline}.`}
      height={height}
      xs={(w) => points.map((p) => xOf(w)(p.at_s))}
      say={(i) =>
        points[i]
          ? `${tickText(Math.round(points[i].at_s - begin))}  ${plain(level(points[i].value), 4)} ${unit}`
          : ""
      }
      table={{
        head: ["since the start", unit],
        rows: sampled(points, 24).map((p) => [
          tickText(Math.round(p.at_s - begin)),
          plain(level(p.value), 4),
        ]),
      }}
      draw={(width, at) => {
        const x = xOf(width);
        const ty = y(level(target));
        return (
          <>
            <Levels at={ticks} y={y} left={LEFT} right={width - RIGHT} />
            <text x={LEFT + 4} y={12} fontWeight={600}>
              {unit}
            </text>
            {timeTicks(0, end - begin, width / 90).map((t) => (
              <text key={t} x={x(t + begin)} y={height - 6} textAnchor="middle">
                {tickText(t)}
              </text>
            ))}
            {pull?.pulls.map((p) => (
              <line
                key={p.from_s}
                x1={x(p.from_s)}
                x2={p === pull.pulls.at(-1) ? width - RIGHT : x(p.to_s)}
                y1={y(level(p.target_pa))}
                y2={y(level(p.target_pa))}
                stroke="var(--notch)"
                strokeWidth={2}
                strokeDasharray="2 5"
              />
            ))}
            <text x={width - RIGHT - 4} y={ty - 12} textAnchor="end">
              target {trimmed(level(target), 4)}
            </text>
            {low != null && low < end && (
              <>
                <rect
                  x={x(low)}
                  y={ty - 9}
                  width={Math.max(3, x(Math.min(end, high ?? end)) - x(low))}
                  height={18}
                  rx={4}
                  fill="var(--accent)"
                  opacity={0.22}
                />
                {mid != null && mid <= end && (
                  <line
                    x1={x(mid)}
                    x2={x(mid)}
                    y1={ty - 9}
                    y2={ty + 9}
                    stroke="var(--accent)"
                    strokeWidth={3}
                  />
                )}
              </>
            )}
            {pull?.pulls.slice(1).map((p) => (
              <text key={p.from_s} x={x(p.from_s) + 4} y={26}>
                N₂
              </text>
            ))}
            <path
              d={path(points.map((p) => [x(p.at_s), y(level(p.value))]))}
              fill="none"
              stroke="var(--accent)"
              strokeWidth={3}
            />
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
