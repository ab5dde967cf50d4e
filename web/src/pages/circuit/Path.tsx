import {
  Check,
  ChevronDown,
  ChevronRight,
  ChevronUp,
  Circle,
} from "lucide-react";
import { useState } from "react";
import { Dialog, Modal, ModalOverlay } from "react-aria-components";
import styled from "styled-components";
import type { Schemas } from "../../api/client";
import { Button, HiddenText } from "../../look/parts";
import { HAND } from "../../look/screen";
import { useIsCovered } from "../../look/Covered";
import { Mark } from "../../look/verdict";
import { atClock } from "../../units/units";

const STATES = {
  done: <Check size={18} aria-label="done" />,
  now: <ChevronRight size={18} aria-label="now" />,
  ahead: <Circle size={12} style={{ margin: "0 3px" }} aria-label="ahead" />,
};

const Nav = styled.nav`
  grid-area: path;
  border-right: 1px solid var(--line);
  padding-right: 10px;
  button {
    display: flex;
    align-items: center;
    gap: 0.5em;
    width: 100%;
    min-height: 48px;
    padding: 0.2em 0.5em;
    border: 0;
    border-radius: 7px;
    background: transparent;
    text-align: left;
    cursor: pointer;
    line-height: 1.15;
  }
  button:hover {
    background: var(--wash);
  }
  button[aria-current="step"] {
    background: var(--accent-wash);
    font-weight: 650;
  }
  .ahead {
    color: var(--soft);
  }
  li li button {
    padding-left: 1.7em;
    font-size: var(--t-note);
  }
  li li button[aria-current="true"] {
    box-shadow: inset 3px 0 0 var(--accent);
  }
  small {
    color: var(--soft);
    margin-left: auto;
    font-family: var(--mono);
  }
  @media ${HAND} {
    border-right: 0;
    padding: 0;
  }
`;

interface PathProps {
  circuit: Schemas["CircuitView"];
  stage: string;
  test: string | undefined;
  go: (stage: string, test?: string) => void;
}

function StageItem({
  stage: s,
  isShown,
  test,
  go,
}: {
  stage: Schemas["StageView"];
  isShown: boolean;
  test: string | undefined;
  go: PathProps["go"];
}) {
  const isCovered = useIsCovered();
  // That a stage is done tells what was found in it.
  const state = isCovered ? "ahead" : s.state;
  return (
    <li>
      <button
        type="button"
        className={state}
        aria-current={isShown ? "step" : undefined}
        onClick={() => go(s.code)}
      >
        {STATES[state]}
        {s.title}
      </button>
      {s.tests.length > 0 && (
        <ol>
          {s.tests.map((t) => (
            <li key={t.id}>
              <button
                type="button"
                aria-current={t.id === test ? "true" : undefined}
                onClick={() => go(s.code, t.id)}
              >
                <Mark shape={isCovered ? "none" : t.shape} size={18} />
                {t.title} {!isCovered && <HiddenText>{t.word}</HiddenText>}
                <small>{atClock(t.created_ms)}</small>
              </button>
            </li>
          ))}
        </ol>
      )}
    </li>
  );
}

/** Stages in order, attempts nested under them; the done ones before the shown one fold into a line. */
export function Path({
  circuit,
  stage,
  test,
  go,
  isWhole = false,
}: PathProps & { isWhole?: boolean }) {
  const [isOpen, setOpen] = useState(isWhole);
  const shown = circuit.stages.findIndex((s) => s.code === stage);
  const ahead = circuit.stages.findIndex((s) => s.state !== "done");
  // One done stage takes no more room than the line it would fold into.
  const done = Math.min(shown, ahead < 0 ? shown : ahead);
  const folds = done > 1 && !isOpen;
  return (
    <Nav aria-label="Stages">
      <ol>
        {done > 1 && !isWhole && (
          <li>
            <button
              type="button"
              aria-expanded={isOpen}
              onClick={() => setOpen(!isOpen)}
            >
              {STATES.done}
              {done} stages done
              {isOpen ? (
                <ChevronUp size={18} aria-hidden />
              ) : (
                <ChevronDown size={18} aria-hidden />
              )}
            </button>
          </li>
        )}
        {circuit.stages.slice(folds ? done : 0).map((s) => (
          <StageItem
            key={s.code}
            stage={s}
            isShown={s.code === stage}
            test={test}
            go={go}
          />
        ))}
      </ol>
    </Nav>
  );
}

const Line = styled.nav`
  display: grid;
  grid-template-columns: minmax(0, 1fr) minmax(0, auto) minmax(0, 1fr);
  gap: 8px;
  border-bottom: 1px solid var(--line);
  & > button {
    min-height: 48px;
    min-width: 48px;
    padding: 0 4px;
    border: 0;
    background: none;
    color: var(--soft);
    font-size: var(--t-note);
    overflow: hidden;
    text-overflow: ellipsis;
    white-space: nowrap;
    text-align: left;
  }
  & > button:last-child {
    text-align: right;
  }
  & > button[aria-haspopup] {
    color: var(--ink);
    font-weight: 650;
    font-size: var(--t-body);
  }
`;
const Veil = styled(ModalOverlay)`
  position: fixed;
  inset: 0;
  z-index: 8;
  background: rgba(0, 0, 0, 0.4);
  display: flex;
  align-items: end;
`;
const Sheet = styled(Modal)`
  width: 100%;
  max-height: 86dvh;
  overflow: auto;
  background: var(--raised);
  border-radius: 14px 14px 0 0;
  padding: 10px 12px max(16px, env(safe-area-inset-bottom));
`;

/** In the hand the path is one line: the stage before, this one, the next; this one opens all of them as a sheet. */
export function PathLine(props: PathProps) {
  const [isOpen, setOpen] = useState(false);
  const { stages } = props.circuit;
  const at = stages.findIndex((s) => s.code === props.stage);
  const [before, now, after] = [stages[at - 1], stages[at], stages[at + 1]];
  const title =
    now?.tests.find((t) => t.id === props.test)?.title ?? now?.title ?? "";
  const go: PathProps["go"] = (stage, test) => {
    setOpen(false);
    props.go(stage, test);
  };
  const step = (stage: Schemas["StageView"] | undefined, text: string) =>
    stage ? (
      <button type="button" onClick={() => props.go(stage.code)}>
        {text}
      </button>
    ) : (
      <span />
    );
  return (
    <Line aria-label="Path">
      {step(before, `‹ ${before?.title ?? ""}`)}
      <button
        type="button"
        aria-haspopup="dialog"
        aria-label={`${title}: all stages`}
        onClick={() => setOpen(true)}
      >
        {title} ▾
      </button>
      {step(after, `${after?.title ?? ""} ›`)}
      <Veil isOpen={isOpen} onOpenChange={setOpen} isDismissable>
        <Sheet>
          <Dialog aria-label="All stages">
            <Path {...props} go={go} isWhole />
            <Button onPress={() => setOpen(false)}>Close</Button>
          </Dialog>
        </Sheet>
      </Veil>
    </Line>
  );
}
