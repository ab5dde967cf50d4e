import { TriangleAlert } from "lucide-react";
import styled from "styled-components";
import { freshId, type Schemas } from "../../api/client";
import { useWrite, writes } from "../../api/queries";
import { Button, Note, Primary } from "../../look/parts";
import { trimmed, useUnits } from "../../units/units";

const Box = styled.section<{ $over: boolean }>`
  border: 2px solid var(${(p) => (p.$over ? "--falling" : "--accent")});
  border-radius: 8px;
  padding: 12px 14px;
  display: grid;
  gap: 8px;
  & > b { font-size: 1.45rem; line-height: 1.15; display: flex; gap: 0.4em; align-items: center; color: var(${(p) => (p.$over ? "--falling" : "--ink")}); }
`;
export const Steps = styled.ol`
  display: flex;
  flex-wrap: wrap;
  gap: 4px 18px;
  font-family: var(--mono);
  li[aria-current] { font-weight: 700; border-bottom: 3px solid var(--accent); }
  li.done { color: var(--soft); text-decoration: line-through; }
`;
export const Row = styled.div`
  display: flex;
  gap: 8px;
  flex-wrap: wrap;
`;

/** Pressing up: the step one is at, when to stop, and the word that the supply is shut. */
export function Press({ test }: { test: Schemas["TestView"] }) {
  const units = useUnits();
  const save = useWrite(writes.event(test.id));
  const press = test.press;
  if (!press) return null;
  const shut = (at_ms: number | null) => save.mutate({ id: freshId(), kind: "supply_isolated", note: "", at_ms });
  const isThere = press.done >= press.steps_pa.length;
  const hasReadings = test.reading_count > 0;
  return (
    <Box $over={press.is_over} aria-label="Press up">
      <b aria-live="polite">{press.is_over && <TriangleAlert size={26} aria-hidden />}{press.headline}</b>
      <Steps aria-label="Steps">
        {press.steps_pa.map((pa, i) => <li key={pa} className={i < press.done ? "done" : undefined} aria-current={i === press.done ? "step" : undefined}>{trimmed(units.of("pressure", pa))} {units.label("pressure")}</li>)}
        <li aria-current={isThere ? "step" : undefined}>supply shut</li>
      </Steps>
      <p>{press.words}</p>
      <Row>
        {isThere ? <Primary isDisabled={save.isPending} onPress={() => shut(null)}>Supply shut now</Primary> : <Button isDisabled={save.isPending} onPress={() => shut(null)}>Supply shut now</Button>}
        {hasReadings && <Button isDisabled={save.isPending} onPress={() => shut(test.start_ms)}>It was shut before the first reading</Button>}
      </Row>
      {save.error && <Note $kind="wrong" role="alert">{save.error.message}</Note>}
    </Box>
  );
}
