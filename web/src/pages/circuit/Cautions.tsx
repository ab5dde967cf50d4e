import { Check, TriangleAlert } from "lucide-react";
import styled from "styled-components";
import type { Schemas } from "../../api/client";
import { useWrite, writes } from "../../api/queries";
import { Primary, Prompt, Trouble } from "../../look/parts";

const List = styled.ul`
  display: grid;
  gap: 7px;
  li {
    display: grid;
    grid-template-columns: 20px minmax(0, 1fr);
    gap: 8px;
  }
  svg {
    margin-top: 2px;
    color: var(--losing);
  }
  li.deadly {
    font-weight: 620;
  }
  li.deadly svg {
    color: var(--falling);
  }
`;
const Ask = styled.div`
  display: grid;
  gap: 8px;
  p {
    font-weight: 620;
  }
`;

/** What to mind; what can kill stands out. */
export function CautionList({
  cautions,
}: {
  cautions: Schemas["CautionView"][];
}) {
  return (
    <List>
      {cautions.map((c) => (
        <li key={c.words} className={c.can_kill ? "deadly" : undefined}>
          <TriangleAlert size={18} aria-hidden />
          {c.words}
        </li>
      ))}
    </List>
  );
}

/** The cautions that can kill, for the top of the box in which one works. */
export function Deadly({ words }: { words: string[] }) {
  return (
    <CautionList cautions={words.map((w) => ({ words: w, can_kill: true }))} />
  );
}

const Alarm = styled(Prompt)`
  border-color: var(--falling);
  p {
    font-size: var(--t-large);
    font-weight: 700;
    line-height: 1.2;
    color: var(--falling);
    display: grid;
    grid-template-columns: 28px minmax(0, 1fr);
    gap: 10px;
  }
`;

/** A closed test against what its parts may take: quiet while it is below, above everything else when it is not. */
export function Watch({ watch }: { watch: Schemas["WatchView"] }) {
  if (watch.level === "within") return <p>{watch.words}</p>;
  return (
    <Alarm role="alert" aria-label="Above the ceiling">
      <p>
        <TriangleAlert size={26} aria-hidden />
        {watch.words}
      </p>
    </Alarm>
  );
}

/** Confirmed once a job, before the box goes on. */
export function ConfirmStep({
  circuit,
  step,
  yes = "Yes, all of it",
}: {
  circuit: string;
  step: Schemas["StepKind"];
  yes?: string;
}) {
  const save = useWrite(writes.step(circuit));
  return (
    <Ask>
      <p>{step.title}</p>
      <span>
        <Primary
          isDisabled={save.isPending}
          onPress={() => save.mutate({ step: step.code, note: "" })}
        >
          <Check size={20} aria-hidden />
          {yes}
        </Primary>
      </span>
      <Trouble of={save.error} />
    </Ask>
  );
}
