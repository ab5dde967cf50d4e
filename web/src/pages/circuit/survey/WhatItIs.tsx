import { useState } from "react";
import styled from "styled-components";
import { type Schemas } from "../../../api/client";
import { useWrite, writes } from "../../../api/queries";
import { useEntry } from "../../../form/entry";
import { Form, FormEnd } from "../../../form/Form";
import { amount, choice, text } from "../../../form/schema";
import { Field, Grid, Note, Quiet } from "../../../look/parts";
import { Pick } from "../../../look/Pick";
import { useUnits } from "../../../units/units";
import {
  RefrigerantFields,
  takenFields,
  takenOf,
  useSafetyOf,
} from "../../Refrigerant";

const Box = styled.section`
  display: grid;
  gap: 12px;
`;
const Head = styled.div`
  display: flex;
  flex-wrap: wrap;
  gap: 4px 12px;
  align-items: center;
  p {
    flex: 1;
    min-width: 12em;
  }
`;

const FIELDS = {
  system_name: text("Name of the system"),
  tag: text("Letter on the unit"),
  name: text("Name of the circuit"),
  kind: choice<Schemas["JobKind"]>("Kind of job", "new_split"),
  ...takenFields(),
  model: text("Model"),
  serial: text("Serial number"),
  scope: text("Under test"),
  volume_l: amount("Volume, L (if known)"),
  reason: text("What was wrong"),
};

function Correction({
  circuit,
  onDone,
}: {
  circuit: Schemas["CircuitView"];
  onDone: () => void;
}) {
  const { meta } = useUnits();
  const safetyOf = useSafetyOf();
  const isListed = meta.refrigerants.some(
    (r) => r.name === circuit.refrigerant,
  );
  const entry = useEntry(FIELDS, {
    system_name: circuit.system,
    tag: circuit.tag,
    name: circuit.name,
    kind: circuit.kind,
    model: circuit.model,
    serial: circuit.serial,
    scope: circuit.scope,
    volume_l: circuit.volume_l == null ? "" : String(circuit.volume_l),
    refrigerant: circuit.refrigerant,
    isAnother: isListed ? "" : "yes",
    safety: circuit.safety_class,
  });
  const { field, text: is, si } = entry;
  const save = useWrite(writes.correction(circuit.id));
  const taken = takenOf(entry);
  const submit = () =>
    save.mutate(
      {
        system_name: is.system_name,
        tag: is.tag,
        name: is.name,
        kind: is.kind,
        refrigerant: is.refrigerant,
        safety_class: safetyOf(taken.value),
        model: is.model,
        serial: is.serial,
        scope: is.scope,
        volume_l: si.volume_l,
        reason: is.reason,
      },
      { onSuccess: onDone },
    );
  return (
    <Form
      save={save}
      entry={entry}
      onSubmit={submit}
      aria-label="Correct what this circuit is"
    >
      <Box>
        <Grid>
          <Field {...field("system_name")} />
          <Field
            {...field("tag")}
            onChange={(tag) =>
              entry.set({ tag: tag.toUpperCase().slice(0, 3) })
            }
          />
          <Field {...field("name")} />
          <Pick
            {...field("kind")}
            options={meta.job_kinds.map((k) => ({ id: k.code, text: k.title }))}
            hint="decides what is taken to be inside when nobody has looked"
          />
          <RefrigerantFields {...taken} />
          <Field {...field("model")} />
          <Field {...field("serial")} />
          <Field {...field("scope")} />
          <Field {...field("volume_l")} />
        </Grid>
        <Field {...field("reason")} placeholder="the plate was misread" />
        <FormEnd
          others={
            <>
              <Quiet onPress={onDone}>Cancel</Quiet>
              <span>Tests of this visit are judged again by it.</span>
            </>
          }
        >
          Correct it
        </FormEnd>
      </Box>
    </Form>
  );
}

/** What was corrected of a circuit, with the reasons. */
export function Corrections({ circuit }: { circuit: Schemas["CircuitView"] }) {
  if (!circuit.corrections.length) return null;
  const words = circuit.corrections.map((c) => `${c.what} (${c.reason})`);
  return <Note>Corrected: {words.join("; ")}.</Note>;
}

/** What the circuit is, and how to put it right until it is signed. */
export default function WhatItIs({
  circuit,
  isReadOnly,
}: {
  circuit: Schemas["CircuitView"];
  isReadOnly: boolean;
}) {
  const [isOpen, setOpen] = useState(false);
  const parts = [
    circuit.refrigerant,
    circuit.kind_title,
    circuit.model,
    circuit.serial && `serial ${circuit.serial}`,
  ];
  return (
    <Box aria-label="What this circuit is">
      <Head>
        <p>{parts.filter(Boolean).join(" · ")}</p>
        {!isReadOnly && !isOpen && (
          <Quiet onPress={() => setOpen(true)}>Something here is wrong</Quiet>
        )}
      </Head>
      <Corrections circuit={circuit} />
      {isOpen && <Correction circuit={circuit} onDone={() => setOpen(false)} />}
    </Box>
  );
}
