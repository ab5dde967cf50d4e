import { scaleLinear, scaleLog } from "d3-scale";
import styled from "styled-components";

const Rows = styled.ul`
  display: grid;
  grid-template-columns: max-content minmax(90px, 1fr);
  gap: 6px 14px;
  align-items: center;
  max-width: 680px;
  margin: 6px 0;
  li {
    display: contents;
  }
  span {
    color: var(--soft);
    max-width: 40ch;
  }
  @media (max-width: 500px) {
    grid-template-columns: minmax(0, 1fr);
    gap: 2px;
    span {
      max-width: none;
    }
  }
`;
const Line = styled.div`
  position: relative;
  height: 22px;
  background: linear-gradient(var(--line), var(--line)) center / 100% 1px
    no-repeat;
`;
const Band = styled.div`
  position: absolute;
  top: 4px;
  height: 14px;
  min-width: 14px;
  margin-left: -7px;
  border-radius: 7px;
  background: var(--accent);
  transition:
    left 0.35s,
    width 0.35s;
  &[data-kind="apart"] {
    background: none;
    border: 2px solid var(--accent);
  }
  @media (prefers-reduced-motion: reduce) {
    transition: none;
  }
`;

/** A figure, or all between two, on the scale that the rows share. */
export interface Track {
  label: string;
  from: number;
  to?: number;
  /** What lies between figures of other rows, drawn hollow. */
  isApart?: boolean;
}

/** Figures beside each other on one scale: each has its row, so that no label lies over another. What they are
 * stands in
 * words beside it; the picture is for the eye. */
export function Tracks({
  of,
  least,
  isLog = false,
}: {
  of: Track[];
  /** Where the scale begins; without it, a little before the first figure. */
  least?: number;
  isLog?: boolean;
}) {
  const all = of.flatMap((t) => [t.from, t.to ?? t.from]);
  const [low, high] = [Math.min(...all), Math.max(...all)];
  if (!of.length || !all.every((n) => Number.isFinite(n))) return null;
  if (isLog && low <= 0) return null;
  const room = (high - low) * 0.06 || Math.abs(high) * 0.1 || 1;
  const at = isLog
    ? scaleLog(
        [10 ** Math.floor(Math.log10(low)), 10 ** Math.ceil(Math.log10(high))],
        [0, 100],
      )
    : scaleLinear([least ?? low - room, high + room], [0, 100]);
  return (
    <Rows>
      {of.map((t) => {
        const [a, b] = [at(t.from), at(t.to ?? t.from)].sort((x, y) => x - y);
        return (
          <li key={t.label}>
            <span>{t.label}</span>
            <Line>
              <Band
                data-kind={t.isApart ? "apart" : "is"}
                style={{
                  left: `${String(a)}%`,
                  width: `calc(${String((b ?? 0) - (a ?? 0))}% + 14px)`,
                }}
              />
            </Line>
          </li>
        );
      })}
    </Rows>
  );
}
