import { FormEnd } from "../../../form/Form";
import { useState } from "react";
import { useNavigate } from "react-router";
import { type Schemas } from "../../../api/client";
import { visit } from "../../../api/visit";
import { useWrite } from "../../../api/queries";
import { Field, Grid } from "../../../look/parts";
import { Pick } from "../../../look/Pick";
import { useUnits } from "../../../units/units";
import { Form } from "../plan";

/** Begins the next visit of a circuit. */
export function ComeBack({ circuit }: { circuit: string }) {
  const { meta } = useUnits();
  const [form, setForm] = useState<Schemas["VisitInput"]>({
    reason: "",
    job: "repair",
  });
  const save = useWrite(visit.next(circuit));
  const go = useNavigate();
  return (
    <Form
      save={save}
      onSubmit={() => {
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
      <FormEnd>Begin the next visit</FormEnd>
    </Form>
  );
}
