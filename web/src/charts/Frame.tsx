import {
  useState,
  type KeyboardEvent,
  type PointerEvent,
  type ReactNode,
} from "react";
import { ToggleButton } from "react-aria-components";
import styled from "styled-components";
import { HAND } from "../look/screen";
import { trimmed } from "../units/units";
import { useWidth } from "./axis";

export const Svg = styled.svg`
  display: block;
  overflow: visible;
  text {
    font-size: 13px;
    fill: var(--soft);
    font-family: inherit;
    paint-order: stroke;
    stroke: var(--paper);
    stroke-width: 4px;
  }
  .tick {
    stroke: var(--line);
    stroke-width: 1;
  }
  .zero {
    stroke: var(--edge);
    stroke-width: 1;
  }
`;

/** In the hand the drawing comes first, what it says of a point below it. */
const Figure = styled.figure`
  display: flex;
  flex-direction: column;
`;
const Box = styled.div`
  position: relative;
  touch-action: pan-y;
  outline-offset: 4px;
`;
const Readout = styled.div`
  min-height: 1.5em;
  font-family: var(--mono);
  font-size: var(--t-small);
  color: var(--ink);
  font-variant-numeric: tabular-nums;
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
  flex: 1;
`;
export const Toggle = styled(ToggleButton)`
  min-height: 48px;
  padding: 0 0.8em;
  border: 1.5px solid transparent;
  border-radius: 8px;
  background: transparent;
  color: var(--accent);
  font-weight: 550;
  cursor: pointer;
  &[data-hovered] {
    background: var(--wash);
  }
  &[data-selected] {
    background: var(--accent-wash);
    border-color: var(--accent);
  }
  @media print {
    display: none;
  }
`;
const Table = styled.div`
  order: 2;
  margin-top: 6px;
  font-size: var(--t-small);
  overflow-x: auto;
  table {
    border-collapse: collapse;
    font-family: var(--mono);
    width: 100%;
  }
  th,
  td {
    text-align: right;
    padding: 2px 10px;
    border-bottom: 1px solid var(--line);
    font-weight: 400;
  }
  th {
    color: var(--soft);
  }
`;
const Top = styled.div`
  @media ${HAND} {
    order: 1;
  }
  display: flex;
  align-items: center;
  gap: 10px;
  min-height: 1.6em;
`;

interface FrameProps {
  /** One sentence for those who do not see the drawing. */
  summary: string;
  height: number;
  /** x of every point, in px, for the cursor. */
  xs: (width: number) => number[];
  /** What a point says. */
  say: (index: number) => string;
  table: { head: string[]; rows: string[][] };
  draw: (width: number, at: number | null) => ReactNode;
  extra?: ReactNode;
}

/** A drawing with a readout by pointer or arrow keys, a sentence and a table. */
export function Frame({
  summary,
  height,
  xs,
  say,
  table,
  draw,
  extra,
}: FrameProps) {
  const [ref, width] = useWidth<HTMLDivElement>();
  const [at, setAt] = useState<number | null>(null);
  const [isTable, setTable] = useState(false);
  const places = width > 0 ? xs(width) : [];
  const last = places.length - 1;
  const shown = at === null ? null : Math.min(at, last);
  const point = (e: PointerEvent<HTMLDivElement>) => {
    const x = e.clientX - e.currentTarget.getBoundingClientRect().left;
    let best = 0;
    for (let i = 1; i < places.length; i++)
      if (Math.abs((places[i] ?? 0) - x) < Math.abs((places[best] ?? 0) - x))
        best = i;
    if (places.length) setAt(best);
  };
  const key = (e: KeyboardEvent) => {
    const from = shown ?? last;
    const to = {
      ArrowLeft: from - 1,
      ArrowRight: from + 1,
      Home: 0,
      End: last,
      PageUp: from - 10,
      PageDown: from + 10,
    }[e.key];
    if (to === undefined) return;
    e.preventDefault();
    setAt(Math.max(0, Math.min(last, to)));
  };
  const text = last >= 0 ? say(shown ?? last) : "";
  return (
    <Figure role="group" aria-label={summary}>
      <Top>
        <Readout aria-hidden>{text}</Readout>
        {extra}
        <Toggle isSelected={isTable} onChange={setTable}>
          Table
        </Toggle>
      </Top>
      <Box
        ref={ref}
        tabIndex={0}
        role="slider"
        aria-label={summary}
        aria-valuemin={0}
        aria-valuemax={Math.max(0, last)}
        aria-valuenow={Math.max(0, shown ?? last)}
        aria-valuetext={text}
        onPointerMove={point}
        onPointerLeave={() => setAt(null)}
        onKeyDown={key}
        onBlur={() => setAt(null)}
      >
        {width > 0 && (
          <Svg width={width} height={height} aria-hidden>
            {draw(width, shown)}
          </Svg>
        )}
      </Box>
      {isTable && (
        <Table>
          <table>
            <thead>
              <tr>
                {table.head.map((h) => (
                  <th key={h} scope="col">
                    {h}
                  </th>
                ))}
              </tr>
            </thead>
            <tbody>
              {table.rows.map((row, i) => (
                <tr key={i}>
                  {row.map((c, j) => (
                    <td key={j}>{c}</td>
                  ))}
                </tr>
              ))}
            </tbody>
          </table>
        </Table>
      )}
    </Figure>
  );
}

/** About `most` of a list, evenly. */
export function sampled<T>(list: T[], most: number): T[] {
  const step = Math.max(1, Math.ceil(list.length / most));
  return list.filter((_, i) => i % step === 0 || i === list.length - 1);
}

/** Lines across a drawing at its levels, each with its figure. */
export function Levels({
  at,
  y,
  left,
  right,
}: {
  at: number[];
  y: (value: number) => number;
  /** Ends of the lines, px. */
  left: number;
  right: number;
}) {
  return at.map((v) => (
    <g key={v}>
      <line className="tick" x1={left} x2={right} y1={y(v)} y2={y(v)} />
      <text x={left - 8} y={y(v) + 4} textAnchor="end">
        {trimmed(v)}
      </text>
    </g>
  ));
}
