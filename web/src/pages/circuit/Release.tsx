import { useState, type FormEvent } from "react";
import styled from "styled-components";
import type { Schemas } from "../../api/client";
import { useWrite, writes } from "../../api/queries";
import { Field, Grid, Note, Pick, Primary } from "../../look/parts";
import { atClock, notANumber, useUnits } from "../../units/units";
import { Deadly } from "./Cautions";
import { StrikeOut } from "./StrikeOut";

const Form = styled.form`
  display: grid;
  gap: 12px;
`;

const Box = styled.section`
  display: grid;
  gap: 12px;
`;

const PORTS = ["liquid port", "vapour port", "both ports"];
const WAYS = [
  "with the flow, through the drier",
  "against the flow",
  "no drier in it",
];

/** Refrigerant or tracer is in the gas: it goes into a cylinder, and no release is offered. */
function Recover({
  circuit,
  stage,
}: {
  circuit: Schemas["CircuitView"];
  stage: Schemas["StageView"];
}) {
  const [note, setNote] = useState("");
  const save = useWrite(writes.step(circuit.id));
  const submit = (e: FormEvent) => {
    e.preventDefault();
    save.mutate({ step: "recovered", note });
  };
  return (
    <Form onSubmit={submit}>
      <Deadly
        words={stage.cautions.filter((c) => c.can_kill).map((c) => c.words)}
      />
      <p>
        Refrigerant or tracer is in the gas of {circuit.refrigerant_in}: recover
        it into a cylinder, and mark the cylinder as a mixture.
      </p>
      <Field
        label="Recovered into"
        value={note}
        onChange={setNote}
        placeholder="cylinder, how much, what its label says"
      />
      {save.error && (
        <Note $kind="wrong" role="alert">
          {save.error.message}
        </Note>
      )}
      <span>
        <Primary type="submit" isDisabled={save.isPending || !note.trim()}>
          Confirm: recovered
        </Primary>
      </span>
    </Form>
  );
}

/** Letting the nitrogen out: port, direction, what is left on both sides. */
export function Release({
  circuit,
  stage,
  isReadOnly,
}: {
  circuit: Schemas["CircuitView"];
  stage: Schemas["StageView"];
  isReadOnly: boolean;
}) {
  const units = useUnits();
  const [port, setPort] = useState(PORTS[1] ?? "");
  const [way, setWay] = useState(WAYS[0] ?? "");
  const [left, setLeft] = useState({ high: "", low: "" });
  const [problem, setProblem] = useState<string | null>(null);
  const save = useWrite(writes.step(circuit.id));
  const unit = units.label("pressure");
  const slight = units.si("pressure", 0) + units.pascal(2, "psi");
  const submit = (e: FormEvent) => {
    e.preventDefault();
    const bad =
      notANumber([
        ["Left on the high side", left.high],
        ["Left on the low side", left.low],
      ]) ??
      (left.high.trim() && left.low.trim()
        ? null
        : "Write down what is left on both sides: a shut metering device can keep one of them full.");
    setProblem(bad);
    if (!bad)
      save.mutate({
        step: "released",
        note: `from the ${port}, ${way}; left ${left.high} ${unit} on the high side, ${left.low} ${unit} on the low side`,
      });
  };
  const over = [left.high, left.low].some(
    (t) =>
      t.trim() &&
      Number.isFinite(Number(t)) &&
      units.si("pressure", Number(t)) > units.pascal(10, "psi"),
  );
  return (
    <Box>
      <h2>Release</h2>
      {stage.steps.map((s) => (
        <p key={s.id}>
          {atClock(s.at_ms)} {s.note}{" "}
          {!isReadOnly && (
            <StrikeOut circuit={circuit.id} entry={s.id} what={s.title} />
          )}
        </p>
      ))}
      {circuit.pressure_left && <Note>{circuit.pressure_left}</Note>}
      {!isReadOnly && circuit.refrigerant_in && (
        <Recover circuit={circuit} stage={stage} />
      )}
      {!isReadOnly && !circuit.refrigerant_in && (
        <Form onSubmit={submit}>
          <Deadly
            words={stage.cautions.filter((c) => c.can_kill).map((c) => c.words)}
          />
          <p>
            From one side, in the refrigerant’s direction through the drier;
            stop at a slight positive pressure, about{" "}
            {units.of("pressure", slight).toPrecision(2)} {unit} (common
            practice), so that no moist air comes in.
          </p>
          <Grid $min={170}>
            <Pick
              label="Out of"
              value={port}
              onChange={setPort}
              options={PORTS.map((id) => ({ id, text: id }))}
            />
            <Pick
              label="Direction"
              value={way}
              onChange={setWay}
              options={WAYS.map((id) => ({ id, text: id }))}
            />
            <Field
              label={`Left on the high side, ${unit}`}
              value={left.high}
              onChange={(high) => setLeft({ ...left, high })}
              inputMode="decimal"
            />
            <Field
              label={`Left on the low side, ${unit}`}
              value={left.low}
              onChange={(low) => setLeft({ ...left, low })}
              inputMode="decimal"
            />
          </Grid>
          {over && (
            <Note>
              That is still pressure: nothing may be opened or brazed yet.
            </Note>
          )}
          {(problem ?? save.error) && (
            <Note $kind="wrong" role="alert">
              {problem ?? save.error?.message}
            </Note>
          )}
          <span>
            <Primary type="submit" isDisabled={save.isPending}>
              Confirm the release
            </Primary>
          </span>
        </Form>
      )}
    </Box>
  );
}
