import styled from "styled-components";
import { Grid } from "../../../look/parts";
import { Pick } from "../../../look/Pick";
import { useUnits } from "../../../units/units";
import type { Mapped } from "./memory";

const Column = styled.div`
  border-top: 1px solid var(--line);
  padding-top: 8px;
`;

const QUANTITIES = [
  { id: "skip", text: "leave out" },
  { id: "gauge_pressure", text: "gauge pressure" },
  { id: "absolute_pressure", text: "absolute pressure or vacuum" },
  { id: "temperature", text: "temperature" },
  { id: "barometric_pressure", text: "barometer" },
];

/** What each column of a file is, to be confirmed. */
export function Columns({
  of,
  onChange,
}: {
  of: Mapped[];
  onChange: (columns: Mapped[]) => void;
}) {
  const { meta } = useUnits();
  const unitsFor = (q: string) =>
    meta.units
      .filter(
        (u) =>
          u.dimension === (q === "temperature" ? "temperature" : "pressure"),
      )
      .map((u) => ({ id: u.code, text: u.label }));
  const change = (i: number, part: Partial<Mapped>) => {
    onChange(of.map((c, k) => (k === i ? { ...c, ...part } : c)));
  };
  return of.map((c, i) => (
    <Column key={c.heading}>
      <Grid>
        <p>
          <strong>{c.heading}</strong>
          <br />
          first value {c.example || "empty"}
        </p>
        <Pick
          label="Is"
          name={`quantity of ${c.heading}`}
          value={c.quantity}
          onChange={(quantity) =>
            change(i, {
              quantity,
              ...(quantity === "temperature" && { unit: "degF" }),
            })
          }
          options={QUANTITIES}
        />
        {c.quantity !== "skip" && (
          <Pick
            label="In"
            name={`unit of ${c.heading}`}
            value={c.unit}
            onChange={(unit) => change(i, { unit })}
            options={unitsFor(c.quantity)}
          />
        )}
      </Grid>
    </Column>
  ));
}
