import { FormEnd } from "../../form/Form";
import { Radio } from "lucide-react";
import { useState } from "react";
import { gauges, useGauges } from "../../api/gauges";
import { useWrite } from "../../api/queries";
import { useMay } from "../../api/session";
import { Form, Row } from "../../look/page";
import { Button, Field, Note, Quiet, Code, Stack } from "../../look/parts";
import { atSecond, onDate } from "../../units/units";

/** Gauges that send by themselves: letting one in, what it sent last, shutting it out. */
export function Gauges() {
  const all = useGauges();
  const mayWork = useMay("work");
  const [name, setName] = useState<string | null>(null);
  const add = useWrite(gauges.add);
  const out = useWrite(gauges.shutOut);
  return (
    <Stack>
      <h2>Gauges that send by themselves</h2>
      {add.data && (
        <Note role="status">
          Its token, shown this once: give it to the gauge, or to the program
          that speaks for it. <Code>{add.data.token}</Code>
        </Note>
      )}
      <ul>
        {all?.map((g) => (
          <Row key={g.id}>
            <div>
              <strong>
                <Radio size={17} aria-hidden /> {g.name}
              </strong>
              <p>
                {g.seen_ms == null
                  ? "has not sent anything yet"
                  : `last heard ${onDate(g.seen_ms)}, ${atSecond(g.seen_ms)}`}
                {g.sources.map(
                  (s) =>
                    ` · ${s.source} ${s.value} ${s.unit.replace("deg", "°")}${s.test_id == null ? ", not read into a test" : ""}`,
                )}
              </p>
            </div>
            {mayWork && (
              <Quiet
                onPress={() => out.mutate(g.id)}
                aria-label={`Shut out ${g.name}`}
              >
                Shut out
              </Quiet>
            )}
          </Row>
        ))}
      </ul>
      {mayWork && name === null && (
        <span>
          <Button onPress={() => setName("")}>Let a gauge in</Button>
        </span>
      )}
      {name !== null && (
        <Form
          save={add}
          onSubmit={() => {
            add.mutate({ name }, { onSuccess: () => setName(null) });
          }}
        >
          <Field
            label="What the gauge is called"
            name="name"
            value={name}
            onChange={setName}
          />
          <FormEnd>Let it in</FormEnd>
        </Form>
      )}
    </Stack>
  );
}
