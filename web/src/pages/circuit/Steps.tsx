import { Check } from "lucide-react";
import { useState } from "react";
import styled from "styled-components";
import type { Schemas } from "../../api/client";
import { useWrite, writes } from "../../api/queries";
import { Button, Field, Trouble } from "../../look/parts";
import { atClock } from "../../units/units";
import { StrikeOut } from "./reading/StrikeOut";

const Item = styled.li`
  border-top: 1px solid var(--line);
  padding: 12px 0;
  display: grid;
  gap: 8px;
  h3 {
    font-size: var(--t-body);
    font-weight: 600;
    display: flex;
    gap: 0.5em;
    align-items: center;
  }
  p {
    color: var(--soft);
  }
`;
const Row = styled.div`
  display: flex;
  gap: 10px;
  align-items: end;
  & > :first-child {
    flex: 1;
  }
`;

function StepItem({
  circuit,
  kind,
  done,
  isReadOnly,
}: {
  circuit: string;
  kind: Schemas["StepKind"];
  done: Schemas["StepView"][];
  isReadOnly: boolean;
}) {
  const [note, setNote] = useState("");
  const save = useWrite(writes.step(circuit));
  return (
    <Item>
      <h3>
        {done.length > 0 && <Check size={20} aria-label="confirmed" />}
        {kind.title}
      </h3>
      {done.map((s) => (
        <p key={s.id}>
          {atClock(s.at_ms)} {s.note || "confirmed"}{" "}
          {!isReadOnly && (
            <StrikeOut circuit={circuit} entry={s.id} what={kind.title} />
          )}
        </p>
      ))}
      {!isReadOnly && (
        <Row>
          <Field
            label={done.length ? "Add to it" : "In words"}
            value={note}
            onChange={setNote}
            placeholder={kind.hint}
          />
          <Button
            isDisabled={save.isPending}
            onPress={() =>
              save.mutate(
                { step: kind.code, note },
                { onSuccess: () => setNote("") },
              )
            }
            aria-label={`Confirm: ${kind.title}`}
          >
            Confirm
          </Button>
        </Row>
      )}
      <Trouble of={save.error} />
    </Item>
  );
}

/** What a person confirms at this stage, with words. */
export function Steps({
  circuit,
  stage,
  isReadOnly,
}: {
  circuit: Schemas["CircuitView"];
  stage: Schemas["StageView"];
  isReadOnly: boolean;
}) {
  return (
    <section>
      <h2>To confirm</h2>
      <ul>
        {stage.step_kinds.map((k) => (
          <StepItem
            key={k.code}
            circuit={circuit.id}
            kind={k}
            done={stage.steps.filter((s) => s.step === k.code)}
            isReadOnly={isReadOnly}
          />
        ))}
      </ul>
    </section>
  );
}
