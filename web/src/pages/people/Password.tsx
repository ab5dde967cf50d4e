import { FormEnd } from "../../form/Form";
import { useState } from "react";
import { useWrite } from "../../api/queries";
import { people } from "../../api/session";
import { Form } from "../../look/page";
import { Button, Field } from "../../look/parts";

/** Changes one's own password. */
export function Password() {
  const [isOpen, setOpen] = useState(false);
  const [form, setForm] = useState({ old: "", new: "" });
  const save = useWrite(people.password);
  if (!isOpen)
    return <Button onPress={() => setOpen(true)}>Change my password</Button>;
  return (
    <Form
      save={save}
      style={{ flexBasis: "100%" }}
      onSubmit={() => {
        save.mutate(form, {
          onSuccess: () => {
            setOpen(false);
            setForm({ old: "", new: "" });
          },
        });
      }}
    >
      <Field
        label="Password now"
        type="password"
        value={form.old}
        onChange={(old) => setForm({ ...form, old })}
        autoComplete="current-password"
      />
      <Field
        label="New password"
        type="password"
        value={form.new}
        onChange={(next) => setForm({ ...form, new: next })}
        autoComplete="new-password"
        hint="Every other device of yours is signed out."
      />
      <FormEnd>Change it</FormEnd>
    </Form>
  );
}
