import { figure } from "../../../units/typed";
import { useState, type FormEvent } from "react";
import styled from "styled-components";
import { Refusal, type Schemas } from "../../../api/client";
import { useWrite, writes } from "../../../api/queries";
import { Form } from "../../../look/Form";
import { Field, Grid, Note, Pick, Primary, Quiet } from "../../../look/parts";
import { notANumber, useUnits } from "../../../units/units";
import { RefrigerantFields, useSafetyOf } from "../../Refrigerant";

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
const Row = styled.div`
  display: flex;
  flex-wrap: wrap;
  gap: 12px;
  align-items: center;
`;

function Correction({
  circuit,
  onDone,
}: {
  circuit: Schemas["CircuitView"];
  onDone: () => void;
}) {
  const { meta } = useUnits();
  const safetyOf = useSafetyOf();
  const [is, setIs] = useState({
    system: circuit.system,
    tag: circuit.tag,
    name: circuit.name,
    kind: circuit.kind,
    model: circuit.model,
    serial: circuit.serial,
    scope: circuit.scope,
    volume: circuit.volume_l == null ? "" : String(circuit.volume_l),
    refrigerant: circuit.refrigerant,
    isAnother: !meta.refrigerants.some((r) => r.name === circuit.refrigerant),
    safety: circuit.safety_class,
    reason: "",
  });
  const [problem, setProblem] = useState<string | null>(null);
  const save = useWrite(writes.correction(circuit.id));
  const refusal = save.error instanceof Refusal ? save.error : null;
  const set = (part: Partial<typeof is>) => setIs({ ...is, ...part });
  const submit = (e: FormEvent) => {
    e.preventDefault();
    const bad = notANumber([["Volume", is.volume]]);
    setProblem(bad);
    if (bad) return;
    save.mutate(
      {
        system_name: is.system,
        tag: is.tag,
        name: is.name,
        kind: is.kind,
        refrigerant: is.refrigerant,
        safety_class: safetyOf(is),
        model: is.model,
        serial: is.serial,
        scope: is.scope,
        volume_l: is.volume.trim() ? figure(is.volume) : null,
        reason: is.reason,
      },
      { onSuccess: onDone },
    );
  };
  return (
    <Form
      refusal={refusal}
      onSubmit={submit}
      aria-label="Correct what this circuit is"
    >
      <Box>
        <Grid>
          <Field
            label="Name of the system"
            value={is.system}
            onChange={(system) => set({ system })}
            name="system_name"
          />
          <Field
            label="Letter on the unit"
            value={is.tag}
            onChange={(tag) => set({ tag: tag.toUpperCase().slice(0, 3) })}
            name="tag"
          />
          <Field
            label="Name of the circuit"
            value={is.name}
            onChange={(name) => set({ name })}
            name="name"
          />
          <Pick
            label="Kind of job"
            value={is.kind}
            onChange={(kind) => set({ kind })}
            options={meta.job_kinds.map((k) => ({ id: k.code, text: k.title }))}
            hint="decides what is taken to be inside when nobody has looked"
            name="kind"
          />
          <RefrigerantFields value={is} onChange={set} at="" />
          <Field
            label="Model"
            value={is.model}
            onChange={(model) => set({ model })}
            name="model"
          />
          <Field
            label="Serial number"
            value={is.serial}
            onChange={(serial) => set({ serial })}
            name="serial"
          />
          <Field
            label="Under test"
            value={is.scope}
            onChange={(scope) => set({ scope })}
            name="scope"
          />
          <Field
            label="Volume, L (if known)"
            value={is.volume}
            onChange={(volume) => set({ volume })}
            inputMode="decimal"
            name="volume_l"
          />
        </Grid>
        <Field
          label="What was wrong"
          value={is.reason}
          onChange={(reason) => set({ reason })}
          placeholder="the plate was misread"
          name="reason"
        />
        {(problem ?? (refusal?.field ? null : save.error)) && (
          <Note $kind="wrong" role="alert">
            {problem ?? save.error?.message}
          </Note>
        )}
        <Row>
          <Primary type="submit" isDisabled={save.isPending}>
            Correct it
          </Primary>
          <Quiet onPress={onDone}>Cancel</Quiet>
          <span>Tests of this visit are judged again by it.</span>
        </Row>
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
export function WhatItIs({
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
