import { scaleLinear, scaleLog } from "d3-scale";
import styled from "styled-components";
import type { Schemas } from "../api/client";
import { colourOf } from "../look/verdict";
import { atClock, onDate, span, trimmed, useUnits } from "../units/units";
import { path, useWidth } from "./axis";
import { Svg } from "./Frame";

const Box = styled.div`
  position: relative;
  min-width: 0;
  button {
    position: absolute;
    top: 0;
    border: 0;
    border-radius: 6px;
    background: none;
    cursor: pointer;
  }
  button:hover {
    background: var(--shade);
  }
`;

/** Lowest level drawn, Pa (20 micron). */
const FLOOR = 2.7;
const AIR = 101_325;
/** Where the vacuum’s axis begins, Pa: nobody reads a micron gauge above it. */
const ROUGH = 20_000;

/** Jobs longer than this are not drawn to scale: a day’s hold would leave no room for the rest. */
const LONG = 8 * 3_600_000;

/** Time to width: even on short jobs; on long ones tests by the root of their length and pauses cut, in order all
 * the same. */
function timeScale(
  segments: Schemas["RunSegment"][],
  from: number,
  to: number,
  left: number,
  right: number,
) {
  if (to - from <= LONG)
    return [scaleLinear([from, to], [left, right]), [] as number[]] as const;
  const knots = [
    ...new Set([from, to, ...segments.flatMap((s) => [s.from_ms, s.to_ms])]),
  ].sort((a, b) => a - b);
  const isTested = (a: number, b: number) =>
    segments.some((s) => s.from_ms <= a && s.to_ms >= b);
  const weights = knots
    .slice(1)
    .map(
      (k, i) =>
        Math.sqrt(k - (knots[i] ?? k)) *
        (isTested(knots[i] ?? k, k) ? 1 : 0.25),
    );
  const total = weights.reduce((a, b) => a + b, 0);
  const places = weights.reduce<number[]>(
    (out, w) => [...out, (out.at(-1) ?? left) + ((right - left) * w) / total],
    [left],
  );
  const breaks = knots
    .slice(1)
    .flatMap((k, i) =>
      isTested(knots[i] ?? k, k)
        ? []
        : [((places[i] ?? 0) + (places[i + 1] ?? 0)) / 2],
    );
  return [scaleLinear(knots, places), breaks] as const;
}

/** The whole job on one time axis: pressure above the atmosphere line (linear), vacuum below it (logarithmic). */
export function RunBar({
  run,
  height = 96,
  isSmall = false,
  go,
}: {
  run: Schemas["Run"];
  height?: number;
  isSmall?: boolean;
  /** Where a press on a test leads. */
  go?: (test: string) => void;
}) {
  const units = useUnits();
  const [ref, width] = useWidth<HTMLDivElement>();
  const segments = run.segments;
  if (!segments.length)
    return (
      <Box ref={ref} style={{ height }}>
        {!isSmall && <span>The run of this job will be drawn here.</span>}
      </Box>
    );
  const from = Math.min(...segments.map((s) => s.from_ms));
  const to = Math.max(...segments.map((s) => s.to_ms), from + 60_000);
  const left = isSmall ? 2 : 62;
  const bottom = isSmall ? 2 : 20;
  const [x, breaks] = timeScale(
    segments,
    from,
    to,
    left,
    width - (isSmall ? 2 : 14),
  );
  const top = Math.max(
    ...segments
      .filter((s) => !s.is_vacuum)
      .flatMap((s) => s.points.map((p) => p.pa)),
    AIR,
  );
  const hasVacuum = segments.some((s) => s.is_vacuum);
  const line = hasVacuum ? (height - bottom) * 0.48 : height - bottom - 3;
  const above = scaleLinear([0, top * 1.08], [line, isSmall ? 3 : 14]);
  const below = scaleLog([ROUGH, FLOOR], [line, height - bottom]).clamp(true);
  const marks = run.marks.filter((m) => m.at_ms >= from && m.at_ms <= to);
  const words = segments
    .map((s) => `${s.title} ${atClock(s.from_ms)} to ${atClock(s.to_ms)}`)
    .join(", ");
  return (
    <Box ref={ref}>
      {width > 0 && (
        <Svg
          width={width}
          height={height}
          role="img"
          aria-label={`The run: ${words}`}
        >
          <line
            x1={left}
            x2={width - (isSmall ? 2 : 14)}
            y1={line}
            y2={line}
            stroke="var(--edge)"
          />
          {!isSmall && (
            <>
              {(height >= 90 || !hasVacuum) && (
                <text x={left - 6} y={line + 4} textAnchor="end">
                  air
                </text>
              )}
              <text x={left - 6} y={20} textAnchor="end">
                {trimmed(units.of("pressure", top), 3)}
              </text>
              {hasVacuum && (
                <text x={left - 6} y={below(66.66) + 4} textAnchor="end">
                  {trimmed(units.of("vacuum", 66.66), 3)}
                </text>
              )}
              <text x={left} y={height - 4}>
                {onDate(from)}, {atClock(from)}
              </text>
              <text x={width - 14} y={height - 4} textAnchor="end">
                {atClock(to)}
              </text>
              <text x={width / 2} y={height - 4} textAnchor="middle">
                {span((to - from) / 1000)}
              </text>
            </>
          )}
          {segments.map((s) => {
            const y = (pa: number) =>
              s.is_vacuum ? below(Math.max(FLOOR, pa)) : above(pa);
            const line = s.points.map((p): [number, number] => [
              x(p.at_ms),
              y(p.pa),
            ]);
            const base = s.is_vacuum ? below(ROUGH) : above(0);
            const first = line[0];
            const last = line.at(-1);
            return (
              <g key={s.test_id}>
                {first && last && (
                  <path
                    d={`${path(line)}L${last[0]} ${base}L${first[0]} ${base}Z`}
                    fill={colourOf(s.shape)}
                    opacity={0.14}
                  />
                )}
                <path
                  d={path(line)}
                  fill="none"
                  stroke={colourOf(s.shape)}
                  strokeWidth={isSmall ? 2 : 2.5}
                />
                {!isSmall && first && last && last[0] - first[0] > 54 && (
                  <text x={first[0] + 5} y={s.is_vacuum ? base + 14 : base - 6}>
                    {s.title}
                  </text>
                )}
              </g>
            );
          })}
          {breaks.map((b) => (
            <path
              key={b}
              d={`M${b - 5} ${line + 5}l4-10M${b + 1} ${line + 5}l4-10`}
              stroke="var(--edge)"
              strokeWidth={1.5}
            />
          ))}
          {!isSmall &&
            marks.map((m, i) => (
              <g key={i}>
                <title>{`${atClock(m.at_ms)} ${m.text}`}</title>
                <path
                  d={`M${x(m.at_ms)} ${line - 4}v8`}
                  stroke="var(--ink)"
                  strokeWidth={2}
                />
              </g>
            ))}
        </Svg>
      )}
      {width > 0 &&
        go &&
        segments
          .map((s) => ({
            ...s,
            at: x(s.from_ms),
            wide: x(s.to_ms) - x(s.from_ms),
          }))
          // Narrower than a thumb, or partly under another, it would be pressed by mistake; the path leads there too.
          .filter(
            (s, i, all) =>
              s.wide >= 48 &&
              all.every(
                (o, j) =>
                  i === j || o.at + o.wide <= s.at || o.at >= s.at + s.wide,
              ),
          )
          .map((s) => (
            <button
              key={s.test_id}
              type="button"
              aria-label={`Go to ${s.title}`}
              style={{ left: s.at, width: s.wide, height }}
              onClick={() => go(s.test_id)}
            />
          ))}
    </Box>
  );
}
