import { FormEnd } from "../form/Form";
import { useState } from "react";
import { useWrite } from "../api/queries";
import { deviceName, people } from "../api/session";
import { Form, Page } from "../look/page";
import { Field } from "../look/parts";
import { Way } from "../look/Way";

/** Who are you? Asked wherever somebody is known by name. */
export function SignIn() {
  const [form, setForm] = useState({
    name: "",
    password: "",
    device: deviceName(),
  });
  const save = useWrite(people.signIn);
  return (
    <Page>
      <h1>Sign in</h1>
      <Form
        save={save}
        onSubmit={() => {
          save.mutate(form);
        }}
      >
        <Field
          label="Name"
          name="name"
          value={form.name}
          onChange={(name) => setForm({ ...form, name })}
          autoComplete="username"
        />
        <Field
          label="Password"
          name="password"
          type="password"
          value={form.password}
          onChange={(password) => setForm({ ...form, password })}
          autoComplete="current-password"
        />
        <Field
          label="This device is called"
          name="device"
          value={form.device}
          onChange={(device) => setForm({ ...form, device })}
          hint="It stands in the list of devices, and beside what is entered on it."
        />
        <FormEnd>Sign in</FormEnd>
      </Form>
      <p>
        <Way to="/pair">I have a code</Way>
      </p>
      <p>
        A phone is let in without a password: on a device that is signed in, go
        to People and pair it. Whoever lost a password gets a new one from a
        lead, or on the machine that Ruhe runs on.
      </p>
    </Page>
  );
}
