import { figure } from "../../../units/typed";
import { useState, type FormEvent } from "react";
import styled from "styled-components";
import type { Schemas } from "../../../api/client";
import { useWrite, writes } from "../../../api/queries";
import {
  Field,
  Grid,
  Note,
  Primary,
  Quiet,
  Trouble,
} from "../../../look/parts";
import { Pick } from "../../../look/Pick";
import { atClock, useUnits } from "../../../units/units";
import { Deadly } from "../Cautions";
import { useOffered } from "../parts";
import { StrikeOut } from "../reading/StrikeOut";

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

/** What the gauges show afterwards, at each section that is read by itself. */
type Left = Partial<Record<"both" | "high" | "low", string>>;

function useLeft(circuit: Schemas["CircuitView"]) {
  const units = useUnits();
  const offered = useOffered("pressure");
  const [typed, setTyped] = useState<Record<string, Left>>({});
  const [unit, setUnit] = useState(offered[0]?.id ?? "psig");
  const sections = circuit.inside.sections;
  const ports = circuit.this_visit.ports.ports.ports ?? [];
  // One port stands for both sides, and so does one gauge on a manifold that joins them.
  const [isJoined, setJoined] = useState(false);
  const sides: (keyof Left)[] =
    ports.length === 1 || isJoined ? ["both"] : ["high", "low"];
  const left = sections.flatMap((section) =>
    sides.flatMap((side) => {
      const text = typed[section]?.[side] ?? "";
      return text.trim()
        ? [
            {
              section: sections.length > 1 ? section : null,
              side,
              pressure: { typed: text, unit },
            },
          ]
        : [];
    }),
  );
  const names = { both: "the gauge", high: "high side", low: "low side" };
  const isOver = left.some((l) => {
    const n = figure(l.pressure.typed);
    const u = units.unit(l.pressure.unit);
    return (
      u != null &&
      Number.isFinite(n) &&
      n * u.factor + u.offset > units.pascal(10, "psi")
    );
  });
  const fields = (
    <Grid $min={150}>
      {sections.flatMap((section) =>
        sides.map((side) => (
          <Field
            key={`${section} ${side}`}
            label={`Left, ${names[side]}${sections.length > 1 ? `, ${section}` : ""}`}
            value={typed[section]?.[side] ?? ""}
            onChange={(text) =>
              setTyped((t) => ({
                ...t,
                [section]: { ...t[section], [side]: text },
              }))
            }
            inputMode="decimal"
          />
        )),
      )}
      <Pick label="Unit" value={unit} onChange={setUnit} options={offered} />
      {ports.length !== 1 && (
        <Quiet aria-pressed={isJoined} onPress={() => setJoined(!isJoined)}>
          {isJoined
            ? "Each side by itself"
            : "One gauge, both sides open to it"}
        </Quiet>
      )}
    </Grid>
  );
  return { left, fields, isOver };
}

/** Refrigerant or tracer may be in the gas: it goes into a cylinder, and no release is offered. */
function Recover({
  circuit,
  stage,
}: {
  circuit: Schemas["CircuitView"];
  stage: Schemas["StageView"];
}) {
  const [note, setNote] = useState("");
  const { left, fields } = useLeft(circuit);
  const save = useWrite(writes.step(circuit.id));
  const submit = (e: FormEvent) => {
    e.preventDefault();
    save.mutate({ step: "recovered", note, left });
  };
  return (
    <Form onSubmit={submit}>
      <Deadly
        words={stage.cautions.filter((c) => c.can_kill).map((c) => c.words)}
      />
      <p>
        {circuit.inside.line}: recover it into a cylinder
        {circuit.refrigerant_in && ", and mark the cylinder as a mixture"}.
      </p>
      <Field
        label="Recovered into"
        value={note}
        onChange={setNote}
        placeholder="cylinder, how much, what its label says"
      />
      {fields}
      <Trouble of={save.error} />
      <span>
        <Primary type="submit" isDisabled={save.isPending}>
          Confirm: recovered
        </Primary>
      </span>
    </Form>
  );
}

/** Letting the nitrogen out: port, direction, what is left on both sides. */
export default function Release({
  circuit,
  stage,
  isReadOnly,
}: {
  circuit: Schemas["CircuitView"];
  stage: Schemas["StageView"];
  isReadOnly: boolean;
}) {
  const units = useUnits();
  const [port, setPort] = useState("");
  const [way, setWay] = useState("");
  const { left, fields, isOver } = useLeft(circuit);
  const save = useWrite(writes.step(circuit.id));
  const unit = units.label("pressure");
  const slight = units.si("pressure", 0) + units.pascal(2, "psi");
  const submit = (e: FormEvent) => {
    e.preventDefault();
    const from = [port && `from the ${port}`, way].filter(Boolean).join(", ");
    save.mutate({ step: "released", note: from, left });
  };
  const mustRecover = circuit.inside.must_recover;
  return (
    <Box>
      <h2>Release</h2>
      {stage.steps.map((s) => (
        <p key={s.id}>
          {atClock(s.at_ms)} {s.note || s.title}{" "}
          {!isReadOnly && (
            <StrikeOut circuit={circuit.id} entry={s.id} what={s.title} />
          )}
        </p>
      ))}
      {circuit.pressure_left && <Note>{circuit.pressure_left}</Note>}
      {!isReadOnly && mustRecover && (
        <Recover circuit={circuit} stage={stage} />
      )}
      {!isReadOnly && !mustRecover && (
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
          </Grid>
          {fields}
          {isOver && (
            <Note>
              That is still pressure: nothing may be opened or brazed yet.
            </Note>
          )}
          <Trouble of={save.error} />
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
