import styled from "styled-components";
import type { Schemas } from "../../api/client";
import { Pick } from "../../look/Pick";
import { useUnits } from "../../units/units";
import { TypedField } from "./survey/rows";

export type Circuit = Schemas["CircuitView"];
export type Typed = Schemas["Typed"];
type Choices = Schemas["Choices"];

export const Box = styled.section`
  display: grid;
  grid-template-columns: minmax(0, 1fr);
  gap: 12px;
`;
export const Rows = styled.ul`
  & > li {
    border-top: 1px solid var(--line);
    padding: 8px 0;
  }
`;
export const Huge = styled.p`
  font-family: var(--mono);
  font-size: var(--t-number);
  font-weight: 650;
  line-height: 1.1;
  font-variant-numeric: tabular-nums;
`;

/** One of a list that the server names. */
export function Choice<K extends keyof Choices, T extends string>({
  of,
  ...rest
}: {
  of: K;
  label: string;
  value: T;
  onChange: (v: T) => void;
  hint?: string;
  name?: string;
}) {
  const { meta } = useUnits();
  return (
    <Pick
      {...rest}
      options={meta.choices[of].map((c) => ({ id: c.code, text: c.title }))}
    />
  );
}

/** The units of a kind, the chosen one first. */
export function useOffered(kind: "pressure" | "temperature") {
  const { chosen, unit } = useUnits();
  const all =
    kind === "pressure" ? ["psig", "bar", "kPa", "MPa"] : ["degF", "degC"];
  const first = chosen[kind];
  return [first, ...all.filter((u) => u !== first)].map((id) => ({
    id,
    text: unit(id)?.label ?? id,
  }));
}

interface Figure {
  label: string;
  value: Typed | null | undefined;
  onChange: (v: Typed | null) => void;
  name?: string;
  hint?: string;
}

/** A pressure as typed, in the unit that is chosen. */
export function Pressure({ name, ...rest }: Figure) {
  return (
    <TypedField
      {...rest}
      {...(name && { name: `${name}.typed` })}
      units={useOffered("pressure")}
    />
  );
}

/** A temperature as typed. */
export function Temperature({ name, ...rest }: Figure) {
  return (
    <TypedField
      {...rest}
      {...(name && { name: `${name}.typed` })}
      units={useOffered("temperature")}
    />
  );
}

/** What the survey says of the plate: it is typed again only to compare. */
export const again = (circuit: Schemas["CircuitView"]) => {
  const plate = circuit.survey.survey.charge;
  return plate?.typed
    ? `${plate.typed} ${plate.unit} in the survey; typed here it is compared`
    : "";
};
