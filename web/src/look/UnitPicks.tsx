import { OFFERED, useUnits, type Kind } from "../units/units";
import { Pick } from "./Pick";

const KINDS: [Kind, string][] = [
  ["pressure", "Pressure"],
  ["temperature", "Temperature"],
  ["vacuum", "Vacuum"],
];

/** The units of the person. */
export default function UnitPicks() {
  const { chosen, choose, unit } = useUnits();
  return KINDS.map(([kind, name]) => (
    <Pick
      key={kind}
      label={name}
      value={chosen[kind]}
      onChange={(code) => choose(kind, code)}
      options={OFFERED[kind].map((id) => ({
        id,
        text: unit(id)?.label ?? id,
      }))}
    />
  ));
}
