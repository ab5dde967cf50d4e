import { Plus, Trash2 } from "lucide-react";
import { useState } from "react";
import styled from "styled-components";
import { type Schemas } from "../../../api/client";
import { useWrite, writes } from "../../../api/queries";
import { useSession } from "../../../api/session";
import { Drawing } from "../../../look/Drawing";
import { Form, FormEnd } from "../../../form/Form";
import { Button, Field, Grid, Quiet } from "../../../look/parts";
import { Pick } from "../../../look/Pick";
import type { Circuit } from "../parts";

type Carried = Schemas["Carried"];
type Reservation = Schemas["Reservation"];
type State = Schemas["State"];

const Sign = styled(Form)`
  border-top: 2px solid var(--ink);
  padding-top: 14px;
  display: grid;
  gap: 12px;
`;

/** What each state asks for: field, label, and whether it is a day. */
const ASKS: Partial<Record<State, [keyof Carried, string, boolean?][]>> = {
  temporary: [
    ["done_for_now", "Done for now"],
    ["revisit_on", "Come back on", true],
    ["told", "Who was told"],
  ],
  provisional: [
    ["outstanding", "Outstanding"],
    ["outstanding_for", "For whom"],
    ["outstanding_by", "By", true],
  ],
  not_proven: [
    ["loss", "The loss from the charge, beside what the tests rule out"],
    ["revisit_on", "Look again on", true],
  ],
  failed: [
    ["wrong", "What is wrong"],
    ["left_in", "The state it was left in"],
    ["told", "Who was told"],
  ],
};

/** What the gates reserve by themselves. */
function reserved(circuit: Circuit): Reservation[] {
  const answered = circuit.gates
    .filter((g) => !g.met && g.overridden)
    .map((g) => ({
      what: `${g.title}: ${g.evidence}`,
      why: g.overridden ?? "",
      whose: "",
    }));
  const met = circuit.gates
    .filter((g) => g.met && g.reservation)
    .map((g) => ({ what: g.reservation ?? "", why: "", whose: "" }));
  return [...answered, ...met];
}

/** The loss from the charge in words, to begin with. */
const loss = (circuit: Circuit) =>
  (circuit.this_visit.arrival?.words ?? []).join(" ");

/** Said only where something was tested. */
const TESTED = "I made these tests myself and the record says what I saw.";
const LOOKED = "I looked at this myself and the record says what I saw.";

/** The signature: the state, what it must carry, who signs. */
export function SignForm({ circuit }: { circuit: Circuit }) {
  const [form, setForm] = useState({
    name: "",
    role: "",
    statement: circuit.stages.some((s) => s.tests.length > 0) ? TESTED : LOOKED,
    state: "" as State | "",
    drawing: "",
  });
  const [carried, setCarried] = useState<Carried>(() => ({
    loss: loss(circuit),
  }));
  // What the gates reserve, until somebody edits it; gates may still change above this form.
  const [edited, setRows] = useState<Reservation[] | null>(null);
  const rows = edited ?? reserved(circuit);
  const [isUnchosen, setUnchosen] = useState(false);
  const signer = useSession()?.person;
  const [password, setPassword] = useState("");
  const sign = useWrite(writes.sign(circuit.id));
  const asks = form.state === "" ? [] : (ASKS[form.state] ?? []);
  const withRows =
    form.state !== "" && form.state !== "passed" && form.state !== "inspected";
  const submit = () => {
    if (form.state === "") return setUnchosen(true);
    setUnchosen(false);
    sign.mutate({
      ...form,
      ...(signer && { name: signer.name }),
      password: signer ? password : "",
      state: form.state,
      seen: circuit.head,
      carried,
      reservations: withRows ? rows : [],
    });
  };
  const means = circuit.state_means.find((s) => s.code === form.state)?.title;
  return (
    <Sign save={sign} onSubmit={submit}>
      <h2>Signature</h2>
      <Pick
        label="Signed as"
        value={form.state}
        onChange={(state) => setForm({ ...form, state })}
        options={circuit.allowed_states.map((s) => ({
          id: s.code,
          text: s.title,
        }))}
        name="state"
        hint={means}
        error={isUnchosen ? "choose how it is signed" : null}
      />
      {asks.length > 0 && (
        <Grid $min={240}>
          {asks.map(([field, label, isDay]) => (
            <Field
              key={field}
              label={label}
              value={carried[field] ?? ""}
              onChange={(v) => setCarried({ ...carried, [field]: v })}
              name={field}
              {...(isDay && { type: "date" })}
            />
          ))}
        </Grid>
      )}
      {withRows && (
        <>
          <h3>Reservations</h3>
          {rows.map((r, i) => {
            const set = (part: Partial<Reservation>) =>
              setRows(rows.map((x, j) => (j === i ? { ...x, ...part } : x)));
            return (
              <div key={i}>
                <Field
                  label="What"
                  value={r.what ?? ""}
                  onChange={(what) => set({ what })}
                  name={`reservations.${i}.what`}
                />
                <Grid $min={200}>
                  <Field
                    label="Why"
                    value={r.why ?? ""}
                    onChange={(why) => set({ why })}
                    name={`reservations.${i}.why`}
                  />
                  <Field
                    label="Whose risk"
                    value={r.whose ?? ""}
                    onChange={(whose) => set({ whose })}
                    name={`reservations.${i}.whose`}
                  />
                </Grid>
                <Quiet
                  onPress={() => setRows(rows.filter((_, j) => j !== i))}
                  aria-label={`Remove reservation ${i + 1}`}
                >
                  <Trash2 size={18} aria-hidden /> Remove
                </Quiet>
              </div>
            );
          })}
          <span>
            <Button
              onPress={() =>
                setRows([...rows, { what: "", why: "", whose: "" }])
              }
            >
              <Plus size={18} aria-hidden /> A reservation
            </Button>
          </span>
        </>
      )}
      <Grid>
        {signer ? (
          <Field
            label={`Password of ${signer.name}, once more`}
            type="password"
            value={password}
            onChange={setPassword}
            name="password"
            autoComplete="current-password"
          />
        ) : (
          <Field
            label="Name"
            value={form.name}
            onChange={(name) => setForm({ ...form, name })}
            name="name"
          />
        )}
        <Field
          label="Role"
          value={form.role}
          onChange={(role) => setForm({ ...form, role })}
          name="role"
        />
      </Grid>
      <Field
        label="Statement"
        value={form.statement}
        onChange={(statement) => setForm({ ...form, statement })}
        isLong
        name="statement"
      />
      <Drawing
        label="Sign with a finger, if you like"
        value={form.drawing}
        onChange={(drawing) => setForm((f) => ({ ...f, drawing }))}
      />
      <p>Signing closes this visit. Words can be added; nothing is changed.</p>
      <FormEnd>Sign</FormEnd>
    </Sign>
  );
}
