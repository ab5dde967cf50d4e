import styled from "styled-components";
import type { Schemas } from "../../../api/client";
import { plain, useUnits } from "../../../units/units";

export type Set = Schemas["SetView"];

export const Table = styled.div`
  overflow-x: auto;
  /* What is hidden in it scrolls with it. */
  position: relative;
  table {
    border-collapse: collapse;
    width: 100%;
    font-variant-numeric: tabular-nums;
  }
  th,
  td {
    text-align: right;
    padding: 6px 8px;
    border-top: 1px solid var(--line);
    white-space: nowrap;
  }
  th {
    font-weight: 600;
    color: var(--soft);
    font-size: var(--t-small);
  }
  td:first-child,
  th:first-child {
    text-align: left;
  }
`;

/** A temperature interval in the chosen unit. */
export function useDegrees() {
  const units = useUnits();
  const label = units.label("temperature");
  return {
    label,
    by: (k: number | null | undefined) =>
      k == null
        ? "–"
        : units.delta("temperature", k).toFixed(1).replace("-", "−"),
    at: (k: number | null | undefined) =>
      k == null ? "–" : plain(units.of("temperature", k), 3),
  };
}

const ROWS: [string, (s: Set) => number | null | undefined][] = [
  ["Superheat", (s) => s.superheat_k],
  ["Subcooling", (s) => s.subcooling_k],
  ["Split, return less supply", (s) => s.split_k],
  ["Condensing above outdoors", (s) => s.approach_k],
];

/** Two sets side by side. */
export function Compared({
  title,
  heads,
  sets,
}: {
  title: string;
  heads: [string, string];
  sets: [Set, Set];
}) {
  const d = useDegrees();
  return (
    <Table tabIndex={0} role="region" aria-label={title}>
      <table>
        <thead>
          <tr>
            <th>{d.label}</th>
            <th>{heads[0]}</th>
            <th>{heads[1]}</th>
          </tr>
        </thead>
        <tbody>
          {ROWS.map(([name, of]) => (
            <tr key={name}>
              <td>{name}</td>
              <td>{d.by(of(sets[0]))}</td>
              <td>{d.by(of(sets[1]))}</td>
            </tr>
          ))}
        </tbody>
      </table>
    </Table>
  );
}
