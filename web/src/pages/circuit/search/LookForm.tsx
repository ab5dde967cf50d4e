import { Camera } from "lucide-react";
import { useState } from "react";
import { FileTrigger } from "react-aria-components";
import type { Schemas } from "../../../api/client";
import { sendPhoto, useWrite, writes } from "../../../api/queries";
import { useEntry } from "../../../form/entry";
import { Said } from "../../../form/Form";
import { amount, choice, text, time, value } from "../../../form/schema";
import {
  Button,
  Field,
  Grid,
  Primary,
  Quiet,
  Row,
  Trouble,
} from "../../../look/parts";
import { Pick } from "../../../look/Pick";
import { useUnits } from "../../../units/units";
import { Deadly } from "../Cautions";
import { Choice } from "../parts";
import { Form } from "../plan";
import { TORQUES, TypedField } from "../survey/rows";

const NO_YES = [
  { id: "no", text: "no" },
  { id: "yes", text: "yes" },
];
const FINDINGS: [Schemas["LookResult"], string][] = [
  ["clear", "Nothing found"],
  ["suspect", "Suspect"],
  ["leak", "Leak"],
];
const CAUSES = [
  "worn core",
  "core not seated",
  "flare not tight",
  "split flare",
  "pinhole in a joint",
  "rubbed through",
  "seal or cap",
  "part faulty",
  "my own hose or tool",
];

const LOOK = {
  method: choice<Schemas["Method"]>("How", "bubbles"),
  dwell_s: amount("Looked for", "min", { times: 60 }),
  at_pa: value("pressure", "Under"),
  // For what is written down afterwards: evidence counts by when it happened.
  at_ms: time("At, if not now"),
  note: text("Note"),
};

/** How a place was looked at and what was found: method, dwell, then one press on the finding logs it. */
export function LookForm({
  circuit,
  place,
  onDone,
}: {
  circuit: string;
  place: string;
  onDone: () => void;
}) {
  const { meta } = useUnits();
  const entry = useEntry(LOOK);
  const { field, si, text: said } = entry;
  const [photo, setPhoto] = useState<string | null>(null);
  const save = useWrite(writes.look(circuit));
  const send = useWrite((f: File) => sendPhoto(circuit, f));
  const chosen = meta.methods.find((m) => m.code === said.method);
  const log = (finding: Schemas["LookResult"]) =>
    entry.check(() =>
      save.mutate(
        {
          place,
          method: said.method,
          finding,
          dwell_s: si.dwell_s,
          at_pa: si.at_pa,
          note: said.note,
          photo_id: photo,
          at_ms: si.at_ms,
        },
        { onSuccess: onDone },
      ),
    );
  return (
    <Form save={save} entry={entry} aria-label={`Look at ${place}`}>
      <Grid $min={170}>
        <Pick
          {...field("method")}
          options={meta.methods.map((m) => ({ id: m.code, text: m.title }))}
          hint={chosen?.hint}
        />
        <Field
          {...field("dwell_s")}
          hint={
            chosen && chosen.least_s >= 60
              ? `${chosen.least_s / 60} min and more for a small leak`
              : undefined
          }
        />
        <Field {...field("at_pa")} hint="empty: what a running test shows" />
        <Field {...field("at_ms")} placeholder="14:05" />
        <Field {...field("note")} />
      </Grid>
      <Row role="group" aria-label="What was found">
        {FINDINGS.map(([code, words]) => (
          <Button
            key={code}
            isDisabled={save.isPending}
            onPress={() => log(code)}
          >
            {words}
          </Button>
        ))}
        <FileTrigger
          acceptedFileTypes={["image/jpeg", "image/png", "image/webp"]}
          defaultCamera="environment"
          onSelect={(files) => {
            const f = files?.[0];
            if (f) send.mutate(f, { onSuccess: setPhoto });
          }}
        >
          <Quiet>
            <Camera size={19} aria-hidden />
            {photo ? "Photo kept" : "Photo"}
          </Quiet>
        </FileTrigger>
        <Quiet onPress={onDone}>Cancel</Quiet>
      </Row>
      <Said />
      <Trouble of={send.error} />
    </Form>
  );
}

const REPAIR = {
  cause: text("Cause", { first: CAUSES[0] ?? "" }),
  words: text("What was done"),
  opened: choice<Schemas["RepairOpened"] | "">("What was opened", ""),
  with_torch: choice<"no" | "yes">("With a torch", "no"),
  is_safe: choice<"no" | "yes">("All of that was so", "no"),
  at_ms: time("At, if not now"),
};

export function RepairForm({
  circuit,
  place,
  onDone,
}: {
  circuit: Schemas["CircuitView"];
  place: string;
  onDone: () => void;
}) {
  const entry = useEntry(REPAIR);
  const { field, si, text: said } = entry;
  const [torque, setTorque] = useState<Schemas["Typed"] | null>(null);
  const save = useWrite(writes.repair(circuit.id));
  const log = () =>
    save.mutate(
      {
        place,
        cause: said.cause,
        words: said.words,
        torque: torque?.typed ? torque : null,
        opened: said.opened || null,
        with_torch: said.with_torch === "yes",
        is_safe: said.is_safe === "yes",
        at_ms: si.at_ms,
      },
      { onSuccess: onDone },
    );
  return (
    <Form
      save={save}
      entry={entry}
      also={{ torque: "torque.typed" }}
      aria-label={`Repair of ${place}`}
    >
      {circuit.pressure_left && (
        <Deadly
          words={[
            `${circuit.pressure_left} Both gauges at zero before any nut turns.`,
          ]}
        />
      )}
      {said.with_torch === "yes" && <Deadly words={[circuit.torch_caution]} />}
      <Grid $min={190}>
        <Pick
          {...field("cause")}
          options={CAUSES.map((id) => ({ id, text: id }))}
        />
        <Field {...field("words")} placeholder="core replaced, cap with seal" />
        {said.cause.includes("flare") && (
          <TypedField
            label="Tightened to"
            value={torque}
            onChange={setTorque}
            units={TORQUES}
            name="torque"
          />
        )}
        <Choice of="repairs_opened" {...field("opened")} />
        <Pick {...field("with_torch")} options={NO_YES} />
        {said.with_torch === "yes" && (
          <Pick {...field("is_safe")} options={NO_YES} />
        )}
        <Field {...field("at_ms")} placeholder="14:05" />
      </Grid>
      <Said />
      <Row>
        <Primary isDisabled={save.isPending} onPress={() => entry.check(log)}>
          Log the repair
        </Primary>
        <Quiet onPress={onDone}>Cancel</Quiet>
      </Row>
    </Form>
  );
}
