import { useState } from "react";
import { useNavigate } from "react-router";
import styled from "styled-components";
import { type Schemas } from "../../api/client";
import { useCircuit, useToday, useWrite, writes } from "../../api/queries";
import { Form, Said } from "../../form/Form";
import { Button, Field, Quiet } from "../../look/parts";
import { Pick } from "../../look/Pick";

const Row = styled.div`
  display: flex;
  flex-wrap: wrap;
  gap: 8px;
  align-items: end;
  padding: 8px 0;
`;

function Where({
  test,
  onDone,
}: {
  test: Schemas["TestView"];
  onDone: () => void;
}) {
  const { data: today } = useToday();
  const { data: here } = useCircuit(test.circuit_id);
  const [to, setTo] = useState("");
  const { data: there } = useCircuit(to || undefined);
  const [section, setSection] = useState("");
  const [reason, setReason] = useState("");
  const go = useNavigate();
  const save = useWrite(writes.moved(test.id));
  // Those of the same system first.
  const others = (today ?? [])
    .filter((c) => c.circuit_id !== test.circuit_id)
    .sort(
      (a, b) =>
        Number(b.system === here?.system) - Number(a.system === here?.system),
    );
  const sections = there?.inside.sections ?? [];
  return (
    <Form save={save} aria-label="Move this test">
      <Row data-question>
        <Pick
          label="It was made on"
          value={to}
          onChange={(id) => {
            setTo(id);
            setSection("");
          }}
          options={others.map((c) => ({
            id: c.circuit_id,
            text: `${c.system}, circuit ${c.tag}`,
          }))}
          name="to"
        />
        {sections.length > 1 && (
          <Pick
            label="Section there"
            value={section}
            onChange={setSection}
            options={sections.map((s) => ({ id: s, text: s }))}
            name="section"
          />
        )}
        <Field
          label="How it came to be entered here"
          value={reason}
          onChange={setReason}
          placeholder="the letters on the valves were mixed up"
          name="reason"
        />
        <Button
          isDisabled={save.isPending || !to}
          onPress={() =>
            save.mutate(
              { to, section: section || null, reason },
              { onSuccess: () => void go(`/circuits/${to}`) },
            )
          }
        >
          Move it there
        </Button>
        <Quiet onPress={onDone}>Cancel</Quiet>
      </Row>
      <Said />
    </Form>
  );
}

/** A test that was entered on the wrong circuit goes to the right one, readings and all. */
export default function MoveTest({ test }: { test: Schemas["TestView"] }) {
  const [isOpen, setOpen] = useState(false);
  if (!isOpen)
    return <Quiet onPress={() => setOpen(true)}>It was another circuit</Quiet>;
  return <Where test={test} onDone={() => setOpen(false)} />;
}
