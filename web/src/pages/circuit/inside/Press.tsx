import { TriangleAlert } from "lucide-react";
import { useState } from "react";
import styled from "styled-components";
import type { Schemas } from "../../../api/client";
import { keepEvent } from "../../../api/outbox";
import { Button, Field, Note, Primary, Low } from "../../../look/parts";
import { trimmed, useUnits } from "../../../units/units";
import { ConfirmStep, Deadly } from "../Cautions";
import { WhenShut } from "../vacuum/WhenShut";

const Box = styled.section<{ $over: boolean }>`
  border: 2px solid var(${(p) => (p.$over ? "--falling" : "--accent")});
  border-radius: 8px;
  padding: 12px 14px;
  display: grid;
  gap: 8px;
  & > b {
    font-size: var(--t-head);
    line-height: 1.15;
    display: flex;
    gap: 0.4em;
    align-items: center;
    color: var(${(p) => (p.$over ? "--falling" : "--ink")});
  }
`;
export const Steps = styled.ol`
  display: flex;
  flex-wrap: wrap;
  gap: 4px 18px;
  font-family: var(--mono);
  li[aria-current] {
    font-weight: 700;
    border-bottom: 3px solid var(--accent);
  }
  li.done {
    color: var(--soft);
    text-decoration: line-through;
  }
`;

/** Pressing up: what can kill first, then the step one is at, when to stop, and the word that the supply is shut. */
export function Press({ test }: { test: Schemas["TestView"] }) {
  const units = useUnits();
  const [why, setWhy] = useState("");
  const [problem, setProblem] = useState<string | null>(null);
  const [isAsking, setAsking] = useState(false);
  const press = test.press;
  if (!press) return null;
  const shut = (at_ms: number | null) => {
    if (press.needs_reason && at_ms === null && !why.trim())
      return setProblem("Say why it goes on from here, or let it down first.");
    setProblem(null);
    keepEvent({
      test: test.id,
      kind: "supply_isolated",
      note: why.trim(),
      at_ms,
    });
  };
  const isThere = press.done >= press.steps_pa.length;
  const hasReadings = test.reading_count > 0;
  if (press.confirm) {
    return (
      <Box $over={false} aria-label="Press up">
        <b>Before the first gas</b>
        <Deadly words={press.cautions} />
        <ConfirmStep circuit={test.circuit_id} step={press.confirm} />
        {hasReadings && (
          <Note>
            Readings are kept meanwhile; the steps follow when this is
            confirmed.
          </Note>
        )}
      </Box>
    );
  }
  return (
    <Box $over={press.is_over} aria-label="Press up">
      <Deadly words={press.cautions.slice(0, 1)} />
      <b aria-live="polite">
        {press.is_over && <TriangleAlert size={26} aria-hidden />}
        {press.headline}
      </b>
      <Steps aria-label="Steps">
        {press.steps_pa.map((pa, i) => (
          <li
            key={pa}
            className={i < press.done ? "done" : undefined}
            aria-current={i === press.done ? "step" : undefined}
          >
            {trimmed(units.of("pressure", pa))} {units.label("pressure")}
          </li>
        ))}
        <li aria-current={isThere ? "step" : undefined}>supply shut</li>
      </Steps>
      <p>{press.words}</p>
      {press.coarse && <Note>{press.coarse}</Note>}
      <Low>
        {press.needs_reason && (
          <Field
            label="Why it goes on from here"
            value={why}
            onChange={setWhy}
            placeholder="regulator crept; below every plate"
          />
        )}
        {isThere ? (
          <Primary onPress={() => shut(null)}>Supply shut now</Primary>
        ) : (
          <Button onPress={() => shut(null)}>Supply shut now</Button>
        )}
        {hasReadings && !isAsking && (
          <Button onPress={() => setAsking(true)}>Shut earlier …</Button>
        )}
      </Low>
      {isAsking && (
        <WhenShut
          test={test}
          ask="When was the supply shut?"
          onSaid={shut}
          onCancel={() => setAsking(false)}
        />
      )}
      {problem && (
        <Note $kind="wrong" role="alert">
          {problem}
        </Note>
      )}
    </Box>
  );
}
