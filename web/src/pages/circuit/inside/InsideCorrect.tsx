import { useState } from "react";
import styled from "styled-components";
import type { Schemas } from "../../../api/client";
import { useWrite, writes } from "../../../api/queries";
import { Form, Said } from "../../../form/Form";
import { Button, Field, Grid } from "../../../look/parts";
import { Pick } from "../../../look/Pick";
import { useOffered } from "../parts";
import { Open } from "../Unfolded";

const Sides = styled.div`
  display: flex;
  flex-wrap: wrap;
  gap: 8px;
`;

type Side = Schemas["GaugeSide"];

/** A reading taken now, outside any test: the digits, then the side it was read at. */
export default function Correct({
  circuit,
  onDone,
}: {
  circuit: Schemas["CircuitView"];
  onDone: () => void;
}) {
  const { inside } = circuit;
  const offered = useOffered("pressure");
  const units = [...offered, { id: "micron", text: "micron" }];
  const alone = inside.sections.length === 1 ? (inside.sections[0] ?? "") : "";
  const [section, setSection] = useState(alone);
  const [typed, setTyped] = useState("");
  const [unit, setUnit] = useState(units[0]?.id ?? "psig");
  const [besides, setBesides] = useState<Schemas["Besides"] | "">("");
  const save = useWrite(writes.seen(circuit.id));
  const log = (side: Side) =>
    save.mutate(
      {
        left: {
          section: section || null,
          side,
          pressure: { typed, unit },
        },
        besides: besides || null,
        at_ms: null,
      },
      {
        onSuccess: () => {
          setTyped("");
          onDone();
        },
      },
    );
  const sides: [Side, string][] = [
    ["both", "Log: both sides"],
    ["high", "High side only"],
    ["low", "Low side only"],
  ];
  return (
    <Form save={save} aria-label="It is not so: a reading now">
      <Open>
        <h2>It is not so: read the gauge now</h2>
        <Grid $min={130}>
          {inside.spaces.length > 1 && (
            <Pick
              label="Read at"
              value={section}
              onChange={setSection}
              options={inside.spaces.map((s) => ({ id: s.name, text: s.name }))}
              name="left.section"
            />
          )}
          <Field
            label="The gauge shows"
            value={typed}
            onChange={setTyped}
            inputMode="decimal"
            name="left.pressure.typed"
          />
          <Pick label="Unit" value={unit} onChange={setUnit} options={units} />
          <Pick
            label="Known besides, if anything"
            value={besides}
            onChange={(b) => setBesides(b)}
            options={[
              { id: "", text: "nothing" },
              { id: "air", text: "air may be in it" },
              { id: "nitrogen", text: "nitrogen may be in it" },
              { id: "refrigerant", text: "refrigerant may be in it" },
            ]}
          />
        </Grid>
        <Sides>
          {sides.map(([side, text]) => (
            <Button
              key={side}
              isDisabled={save.isPending || !typed.trim()}
              onPress={() => log(side)}
            >
              {text}
            </Button>
          ))}
        </Sides>
        <Said />
      </Open>
    </Form>
  );
}
