import { useState, type FormEvent } from "react";
import { Refusal } from "../../../api/client";
import { finish } from "../../../api/finish";
import { useWrite } from "../../../api/queries";
import { Drawing, Drawn } from "../../../look/Drawing";
import { Field, Grid, Note, Pick, Primary } from "../../../look/parts";
import { atClock } from "../../../units/units";
import { Closed, Form } from "../plan";
import { StrikeOut } from "../StrikeOut";
import { Box, type Circuit } from "./parts";

const EMPTY = {
  question: "",
  options: "",
  risk: "",
  answer: "",
  name: "",
  drawing: "",
  by_phone: false,
};

/** What was put to somebody, what they answered, and their signature. */
export function Consent({
  circuit,
  isReadOnly,
}: {
  circuit: Circuit;
  isReadOnly: boolean;
}) {
  const [form, setForm] = useState(EMPTY);
  const save = useWrite(finish.consent(circuit.id));
  const refusal = save.error instanceof Refusal ? save.error : null;
  const consents = circuit.finish.consents;
  const field = (
    name: "question" | "options" | "risk" | "answer" | "name",
  ) => ({
    value: form[name],
    onChange: (v: string) => setForm((f) => ({ ...f, [name]: v })),
    name,
  });
  if (isReadOnly && consents.length === 0) return null;
  return (
    <Box>
      <h2>Consent</h2>
      {circuit.finish.without_consent.map((p) => (
        <Note key={p}>
          Nobody has agreed to the risky repair at {p}: without that it is a
          reservation.
        </Note>
      ))}
      {consents.map((c) => (
        <div key={c.id}>
          <p>
            {atClock(c.at_ms)} <strong>{c.question}</strong> {c.options} Risk:{" "}
            {c.risk} Answer: <strong>{c.answer}</strong> {c.name}
            {c.said_by && ` (as said by ${c.said_by})`}
            {c.drawing ? "" : ", by telephone"}.{" "}
            {!isReadOnly && (
              <StrikeOut circuit={circuit.id} entry={c.id} what="the consent" />
            )}
          </p>
          <Drawn path={c.drawing} name={c.name} />
        </div>
      ))}
      {!isReadOnly && (
        <Closed open={circuit.finish.without_consent.length > 0 || undefined}>
          <summary>Ask and sign</summary>
          <Form
            refusal={refusal}
            onSubmit={(e: FormEvent) => {
              e.preventDefault();
              save.mutate(form, { onSuccess: () => setForm(EMPTY) });
            }}
          >
            <Field label="The question" {...field("question")} />
            <Grid $min={240}>
              <Field label="What can be done instead" {...field("options")} />
              <Field label="The risk, in plain words" {...field("risk")} />
              <Field label="The answer" {...field("answer")} />
              <Field label="Name" {...field("name")} />
              <Pick
                label="Given"
                value={form.by_phone ? "phone" : "here"}
                onChange={(v) =>
                  setForm((f) => ({ ...f, by_phone: v === "phone" }))
                }
                options={[
                  { id: "here", text: "here, signed" },
                  { id: "phone", text: "by telephone" },
                ]}
              />
            </Grid>
            {!form.by_phone && (
              <Drawing
                label="Sign here with a finger"
                value={form.drawing}
                onChange={(drawing) => setForm((f) => ({ ...f, drawing }))}
              />
            )}
            {refusal && (refusal.field === "drawing" || !refusal.field) && (
              <Note $kind="wrong" role="alert">
                {refusal.message}
              </Note>
            )}
            <span>
              <Primary type="submit" isDisabled={save.isPending}>
                Keep this consent
              </Primary>
            </span>
          </Form>
        </Closed>
      )}
    </Box>
  );
}
