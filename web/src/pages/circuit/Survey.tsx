import styled from "styled-components";
import type { Schemas } from "../../api/client";
import { Mono } from "../../look/parts";
import { trimmed, useUnits } from "../../units/units";

const List = styled.dl`
  display: grid;
  grid-template-columns: max-content 1fr;
  gap: 6px 20px;
  dt { color: var(--soft); }
`;

/** What is there and rated for what. */
export function Survey({ circuit }: { circuit: Schemas["CircuitView"] }) {
  const units = useUnits();
  const rows: [string, string][] = [
    ["Site", [circuit.site, circuit.place].filter(Boolean).join(", ")], ["System", [circuit.system, circuit.model, circuit.serial].filter(Boolean).join(" · ")],
    ["Kind of job", circuit.kind_title], ["Refrigerant", circuit.refrigerant], ["Under test", circuit.scope || "not said"], ["Volume", circuit.volume_l ? `${circuit.volume_l} L` : "not known"],
  ];
  return (
    <section>
      <h2>Survey</h2>
      <List>
        {rows.map(([k, v]) => <div key={k} style={{ display: "contents" }}><dt>{k}</dt><dd>{v}</dd></div>)}
        {circuit.plates.map((p) => (
          <div key={p.part} style={{ display: "contents" }}>
            <dt>Plate, {p.part}</dt>
            <dd><Mono>{p.typed} {p.unit}</Mono>{p.design_pa === circuit.ceiling_pa ? `, the ceiling: ${trimmed(units.of("pressure", p.design_pa))} ${units.label("pressure")}` : ""}</dd>
          </div>
        ))}
      </List>
    </section>
  );
}
