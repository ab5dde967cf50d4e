import { Check, TriangleAlert } from "lucide-react";
import styled from "styled-components";
import type { Schemas } from "../../api/client";
import { useWrite, writes } from "../../api/queries";
import { Note, Primary } from "../../look/parts";

const List = styled.ul`
  display: grid;
  gap: 7px;
  li { display: grid; grid-template-columns: 20px minmax(0, 1fr); gap: 8px; }
  svg { margin-top: 2px; color: var(--losing); }
  li.deadly { font-weight: 620; }
  li.deadly svg { color: var(--falling); }
`;
const Ask = styled.div`
  display: grid;
  gap: 8px;
  p { font-weight: 620; }
`;

/** What to mind; what can kill stands out. */
export function CautionList({ cautions }: { cautions: Schemas["CautionView"][] }) {
  return (
    <List>
      {cautions.map((c) => (
        <li key={c.words} className={c.can_kill ? "deadly" : undefined}><TriangleAlert size={18} aria-hidden />{c.words}</li>
      ))}
    </List>
  );
}

/** The cautions that can kill, for the top of the box in which one works. */
export function Deadly({ words }: { words: string[] }) {
  return <CautionList cautions={words.map((w) => ({ words: w, can_kill: true }))} />;
}

/** Confirmed once a job, before the box goes on. */
export function ConfirmStep({ circuit, step, onDone }: { circuit: string; step: Schemas["StepKind"]; onDone?: () => void }) {
  const save = useWrite(writes.step(circuit));
  return (
    <Ask>
      <p>{step.title}</p>
      <span><Primary isDisabled={save.isPending} onPress={() => save.mutate({ step: step.code, note: "" }, { onSuccess: onDone })}><Check size={20} aria-hidden />Yes, all of it</Primary></span>
      {save.error && <Note $kind="wrong" role="alert">{save.error.message}</Note>}
    </Ask>
  );
}
