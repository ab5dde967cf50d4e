import { scaleLog } from "d3-scale";
import styled from "styled-components";
import type { Schemas } from "../api/client";
import { trimmed } from "../units/units";
import { useWidth } from "./axis";
import { Svg } from "./Frame";

const Box = styled.section`
  min-width: 0;
  h2 {
    margin-bottom: 2px;
  }
  p {
    color: var(--soft);
    font-size: var(--t-note);
  }
`;

const ROW = 30;
const TOP = 22;

/** 3 g, 1.2 kg. */
export const grams = (g: number) =>
  g >= 1000 ? `${two(g / 1000)} kg` : `${two(g)} g`;

/** Two significant digits: a leak is not known to more. */
const two = (x: number) => trimmed(Number(x.toPrecision(2)), 2);

interface Rung {
  id: string;
  title: string;
  isLeak: boolean;
  isLive: boolean;
  low: number;
  high: number;
  percent: [number, number] | null;
}

/** One axis of leak size: what every test of this circuit has ruled out, or shown; the running one moves. */
export function Ladder({
  rungs,
  live,
}: {
  rungs: Schemas["RungView"][];
  live: { title: string; proves: Schemas["Proves"]; isLeak: boolean } | null;
}) {
  const all: Rung[] = rungs.map((r) => ({
    id: r.test_id,
    title: r.title,
    isLeak: r.is_leak,
    isLive: false,
    low: r.low,
    high: r.high,
    percent:
      r.low_percent != null && r.high_percent != null
        ? [r.low_percent, r.high_percent]
        : null,
  }));
  if (live)
    all.push({
      id: "live",
      title: live.title,
      isLeak: live.isLeak,
      isLive: true,
      low: live.proves.low_g_per_year,
      high: live.proves.high_g_per_year,
      percent: null,
    });
  return all.length ? <Drawn all={all} /> : null;
}

function Drawn({ all }: { all: Rung[] }) {
  const [ref, width] = useWidth<HTMLDivElement>();
  const left = width < 520 ? 70 : 96;
  const from =
    10 **
    Math.floor(
      Math.log10(Math.max(0.1, Math.min(...all.map((r) => r.low)) / 3)),
    );
  const to =
    10 **
    Math.ceil(
      Math.log10(
        Math.max(from * 100, Math.max(...all.map((r) => r.high)) * 1.5),
      ),
    );
  const x = scaleLog([from, to], [left, width - 12]).clamp(true);
  const height = TOP + all.length * ROW + 6;
  const ticks = Array.from(
    { length: Math.round(Math.log10(to / from)) + 1 },
    (_, k) => from * 10 ** k,
  );
  const ofCharge = (percent: number) =>
    percent > 100 ? "all of the charge and more" : `${two(percent)} % of it`;
  const most = (r: Rung) =>
    `${grams(r.high)} a year${r.percent ? ` (${ofCharge(r.percent[1])})` : ""}`;
  const says = (r: Rung) =>
    r.isLeak
      ? `it leaks ${grams(r.low)} to ${most(r)}`
      : `it may still lose up to ${most(r)}, or ${grams(r.low)} if the leak is on the low side`;
  const last = all.at(-1);
  return (
    <Box ref={ref} aria-label="Leak ladder">
      <h2>Leak ladder</h2>
      {last && (
        <p>
          {last.title}
          {last.isLive ? ", now" : ""}: {says(last)}. As refrigerant at work;
          pipe lengths in the survey narrow it.
        </p>
      )}
      {width > 0 && (
        <Svg
          width={width}
          height={height}
          role="img"
          aria-label={all.map((r) => `${r.title}: ${says(r)}`).join(". ")}
        >
          {ticks.map((t, i) => (
            <g key={t}>
              <line
                className="tick"
                x1={x(t)}
                x2={x(t)}
                y1={TOP - 4}
                y2={height}
              />
              <text
                x={Math.min(x(t), width - 26)}
                y={13}
                textAnchor={i === 0 ? "start" : "middle"}
              >
                {grams(t)}
              </text>
            </g>
          ))}
          {all.map((r, i) => {
            const y = TOP + i * ROW;
            return (
              <g key={r.id}>
                <title>{`${r.title}: ${says(r)}`}</title>
                <text
                  x={left - 8}
                  y={y + 19}
                  textAnchor="end"
                  style={{ fill: "var(--ink)" }}
                >
                  {r.title}
                </text>
                {!r.isLeak && (
                  <rect
                    x={x(r.high)}
                    y={y + 11}
                    width={Math.max(0, width - 12 - x(r.high))}
                    height={6}
                    fill="var(--holds)"
                    opacity={0.28}
                  />
                )}
                <rect
                  x={x(r.low)}
                  y={y + 5}
                  width={Math.max(4, x(r.high) - x(r.low))}
                  height={18}
                  rx={3}
                  fill={r.isLeak ? "var(--falling)" : "var(--accent)"}
                  opacity={r.isLive ? 0.55 : 0.9}
                />
                {r.isLeak && (
                  <path
                    d={`M${x(r.low) + 3} ${y + 8}l12 12M${x(r.low) + 15} ${y + 8}l-12 12`}
                    stroke="var(--paper)"
                    strokeWidth={2}
                  />
                )}
              </g>
            );
          })}
        </Svg>
      )}
    </Box>
  );
}
