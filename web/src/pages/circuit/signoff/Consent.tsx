import { FormEnd } from "../../../form/Form";
import { useState } from "react";
import { visit } from "../../../api/visit";
import { useWrite } from "../../../api/queries";
import { Drawing, Drawn } from "../../../look/Drawing";
import { Field, Grid, Note } from "../../../look/parts";
import { Pick } from "../../../look/Pick";
import { atClock } from "../../../units/units";
import { Closed, Form } from "../plan";
import { StrikeOut } from "../reading/StrikeOut";
import { Box, type Circuit } from "../parts";

interface Asked {
  repair: string | null;
  question: string;
  options: string;
  risk: string;
  answer: string;
  name: string;
  drawing: string;
  by_phone: boolean;
  /** Nothing until somebody answered. */
  agreed: "" | "yes" | "no";
}
const EMPTY: Asked = {
  repair: null,
  agreed: "",
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
  const save = useWrite(visit.consent(circuit.id));
  const consents = circuit.this_visit.consents;
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
      {circuit.this_visit.without_consent.map((p) => (
        <Note key={p.repair}>
          Nobody has agreed to the risky repair at {p.place}: without that it is
          a reservation.
        </Note>
      ))}
      {consents.map((c) => (
        <div key={c.id}>
          <p>
            {atClock(c.at_ms)} <strong>{c.question}</strong> {c.options} Risk:{" "}
            {c.risk} Answer:{" "}
            <strong>
              {c.is_agreed ? "agreed" : "not agreed"}: {c.answer}
            </strong>{" "}
            {c.name}
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
        <Closed
          open={circuit.this_visit.without_consent.length > 0 || undefined}
        >
          <summary>Ask and sign</summary>
          <Form
            save={save}
            onSubmit={() => {
              const { agreed, ...said } = form;
              save.mutate(
                { ...said, is_agreed: agreed === "yes" },
                { onSuccess: () => setForm(EMPTY) },
              );
            }}
          >
            {circuit.this_visit.without_consent.length > 0 && (
              <Pick
                label="About"
                value={form.repair ?? ""}
                onChange={(repair) =>
                  setForm((f) => ({ ...f, repair: repair || null }))
                }
                options={[
                  ...circuit.this_visit.without_consent.map((p) => ({
                    id: p.repair,
                    text: `the repair at ${p.place}`,
                  })),
                  { id: "", text: "something else" },
                ]}
              />
            )}
            <Field label="The question" {...field("question")} />
            <Grid $min={240}>
              <Field label="What can be done instead" {...field("options")} />
              <Field label="The risk, in plain words" {...field("risk")} />
              <Pick
                label="They"
                value={form.agreed}
                onChange={(agreed) => setForm((f) => ({ ...f, agreed }))}
                options={[
                  { id: "yes", text: "agreed" },
                  { id: "no", text: "did not agree" },
                ]}
              />
              <Field label="In their words" {...field("answer")} />
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
            <FormEnd isDisabled={form.agreed === ""}>Keep this answer</FormEnd>
          </Form>
        </Closed>
      )}
    </Box>
  );
}
