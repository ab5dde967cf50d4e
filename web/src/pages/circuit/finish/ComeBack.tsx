import { useState, type FormEvent } from "react";
import { useNavigate } from "react-router";
import { Refusal, type Schemas } from "../../../api/client";
import { finish } from "../../../api/finish";
import { useWrite } from "../../../api/queries";
import { Field, Grid, Note, Pick, Primary } from "../../../look/parts";
import { useUnits } from "../../../units/units";
import { Form } from "../plan";

/** Begins the next visit of a circuit. */
export function ComeBack({ circuit }: { circuit: string }) {
  const { meta } = useUnits();
  const [form, setForm] = useState<Schemas["VisitInput"]>({
    reason: "",
    job: "repair",
  });
  const save = useWrite(finish.visit(circuit));
  const refusal = save.error instanceof Refusal ? save.error : null;
  const go = useNavigate();
  return (
    <Form
      refusal={refusal}
      onSubmit={(e: FormEvent) => {
        e.preventDefault();
        // The form goes with the signature: what it promised still happens.
        void save.mutateAsync(form).then(
          () => go(`/circuits/${circuit}`),
          () => undefined,
        );
      }}
    >
      <Grid>
        <Field
          label="What this visit is for"
          value={form.reason}
          onChange={(reason) => setForm((f) => ({ ...f, reason }))}
          name="reason"
        />
        <Pick
          label="Kind of job"
          value={form.job}
          onChange={(job) => setForm((f) => ({ ...f, job }))}
          options={meta.job_kinds.map((k) => ({ id: k.code, text: k.title }))}
        />
      </Grid>
      {refusal && !refusal.field && (
        <Note $kind="wrong">{refusal.message}</Note>
      )}
      <span>
        <Primary type="submit" isDisabled={save.isPending}>
          Begin the next visit
        </Primary>
      </span>
    </Form>
  );
}
