import { FormEnd } from "../../../form/Form";
import { useState } from "react";
import { visit } from "../../../api/visit";
import { useWrite } from "../../../api/queries";
import { usePeople, useSession } from "../../../api/session";
import { Drawing, Drawn } from "../../../look/Drawing";
import { Field, Grid } from "../../../look/parts";
import { Pick } from "../../../look/Pick";
import { atClock, onDate } from "../../../units/units";
import { Closed, Form } from "../plan";
import { ComeBack } from "../visit/ComeBack";
import { Box, type Circuit } from "../parts";
import { here } from "../../../api/room";

const STRANGER = "…";

/** A witness: somebody known here with their own password, or anybody by name. */
function Witness({ circuit }: { circuit: Circuit }) {
  const [form, setForm] = useState({
    name: "",
    role: "",
    statement: "",
    drawing: "",
  });
  const [isKnown, setKnown] = useState(false);
  const [password, setPassword] = useState("");
  const session = useSession();
  const known = (usePeople(session?.person != null) ?? []).filter(
    (p) =>
      !p.is_out && p.role !== "office" && p.name !== circuit.signature?.name,
  );
  const save = useWrite(visit.witness(circuit.id));
  return (
    <Form
      save={save}
      onSubmit={() => {
        save.mutate({ ...form, password: isKnown ? password : null });
      }}
    >
      <Grid>
        {known.length > 0 && (
          <Pick
            label="Who"
            value={isKnown ? form.name : STRANGER}
            onChange={(name) => {
              setKnown(name !== STRANGER);
              setForm((f) => ({ ...f, name: name === STRANGER ? "" : name }));
            }}
            options={[
              ...known.map((p) => ({ id: p.name, text: p.name })),
              { id: STRANGER, text: "Somebody who is not known here" },
            ]}
          />
        )}
        {isKnown ? (
          <Field
            label={`Password of ${form.name}`}
            type="password"
            value={password}
            onChange={setPassword}
            name="password"
          />
        ) : (
          <Field
            label="Name of the witness"
            value={form.name}
            onChange={(name) => setForm((f) => ({ ...f, name }))}
            name="name"
          />
        )}
        <Field
          label="Role"
          value={form.role}
          onChange={(role) => setForm((f) => ({ ...f, role }))}
          name="role"
        />
        <Field
          label="What the witness says"
          value={form.statement}
          onChange={(statement) => setForm((f) => ({ ...f, statement }))}
        />
      </Grid>
      <Drawing
        label="The witness signs here"
        value={form.drawing}
        onChange={(drawing) => setForm((f) => ({ ...f, drawing }))}
      />
      <FormEnd>Countersign</FormEnd>
    </Form>
  );
}

function Addition({ circuit }: { circuit: Circuit }) {
  const [form, setForm] = useState({ name: "", words: "", completes: false });
  const person = useSession()?.person;
  const save = useWrite(visit.addition(circuit.id));
  return (
    <Form
      save={save}
      onSubmit={() => {
        save.mutate(form, {
          onSuccess: () => setForm({ ...form, words: "" }),
        });
      }}
    >
      <Field
        label="Words to add"
        value={form.words}
        onChange={(words) => setForm((f) => ({ ...f, words }))}
        isLong
        name="words"
      />
      <Grid>
        {person ? (
          <p>In the name of {person.name}.</p>
        ) : (
          <Field
            label="Who adds them"
            value={form.name}
            onChange={(name) => setForm((f) => ({ ...f, name }))}
            name="name"
          />
        )}
        {circuit.signature?.state === "provisional" && (
          <Pick
            label="What was outstanding"
            value={form.completes ? "yes" : "no"}
            onChange={(v) => setForm((f) => ({ ...f, completes: v === "yes" }))}
            options={[
              { id: "no", text: "is still outstanding" },
              { id: "yes", text: "is done" },
            ]}
          />
        )}
      </Grid>
      <FormEnd>Add these words</FormEnd>
    </Form>
  );
}

/** What came after the signature. */
export function AfterList({ circuit }: { circuit: Circuit }) {
  return circuit.this_visit.after.map((a) => (
    <div key={`${a.at_ms} ${a.name}`}>
      <p>
        <strong>{a.title}</strong>: {a.name}
        {a.said_by && ` (as said by ${a.said_by})`}, {onDate(a.at_ms)},{" "}
        {atClock(a.at_ms)}
        {a.device_ms != null &&
          ` (the device said ${onDate(a.device_ms)}, ${atClock(a.device_ms)})`}
        . {a.words}
      </p>
      <Drawn path={a.drawing} name={a.name} />
    </div>
  ));
}

/** After the signature: a witness, words, the next visit. */
export function After({ circuit }: { circuit: Circuit }) {
  const state = circuit.signature?.state;
  return (
    <Box>
      <AfterList circuit={circuit} />
      {(state === "temporary" || state === "not_proven") && (
        <p>
          <a href={here(`/api/circuits/${circuit.id}/revisit.ics`)}>
            The day to come back, for a calendar
          </a>
        </p>
      )}
      <Closed>
        <summary>A witness signs</summary>
        <Witness circuit={circuit} />
      </Closed>
      <Closed>
        <summary>Add words</summary>
        <Addition circuit={circuit} />
      </Closed>
      <Closed open={state === "temporary" || state === "failed" || undefined}>
        <summary>Come back: the next visit</summary>
        <ComeBack circuit={circuit.id} />
      </Closed>
    </Box>
  );
}
