import { FormEnd } from "../form/Form";
import { useState } from "react";
import { useWrite } from "../api/queries";
import { deviceName, people } from "../api/session";
import { Form, Page } from "../look/page";
import { Field } from "../look/parts";

/** On the phone: the code from the other device, which the QR code has put behind the #. */
export default function Pair() {
  const [code, setCode] = useState(() => location.hash.slice(1));
  const [device, setDevice] = useState(deviceName);
  const save = useWrite(people.pair);
  return (
    <Page>
      <h1>Pair this device</h1>
      <Form
        save={save}
        onSubmit={() => {
          // Let in, the page goes on to Today by itself.
          save.mutate({ code, device });
        }}
      >
        <Field
          label="Code"
          name="code"
          value={code}
          onChange={setCode}
          hint="Ten letters and digits; they hold for ten minutes and open once."
        />
        <Field
          label="This device is called"
          name="device"
          value={device}
          onChange={setDevice}
        />
        <FormEnd>Pair</FormEnd>
      </Form>
    </Page>
  );
}
