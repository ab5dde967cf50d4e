import { ChevronRight, TriangleAlert } from "lucide-react";
import styled from "styled-components";
import type { Schemas } from "../../api/client";
import { useNow } from "../../look/now";
import { Button, Primary } from "../../look/parts";
import { HAND } from "../../look/screen";
import { Word } from "../../look/verdict";
import { ClockText } from "../Today";
import { InsideLine } from "./inside/Inside";

const Box = styled.aside`
  grid-area: says;
  min-width: 0;
  align-self: start;
  border: 2px solid var(--ink);
  border-radius: 10px;
  padding: 10px 12px;
  display: grid;
  gap: 6px;
  margin-bottom: 10px;
  @media ${HAND} {
    padding: 6px 10px;
    gap: 2px;
    margin: 0;
  }
`;
const Leak = styled.p`
  display: flex;
  gap: 8px;
  align-items: center;
  font-weight: 620;
  line-height: 1.2;
  color: var(--falling);
  svg {
    flex: none;
  }
`;
const Said = styled.div`
  display: grid;
  gap: 2px;
  @media ${HAND} {
    display: flex;
    flex-wrap: wrap;
    gap: 0 10px;
    align-items: baseline;
  }
`;
const Number = styled.p`
  font-size: var(--t-title);
  font-weight: 720;
  line-height: 1.12;
  letter-spacing: -0.01em;
  overflow-wrap: anywhere;
  @media ${HAND} {
    font-size: var(--t-large);
  }
`;
const Clock = styled.p`
  line-height: 1.2;
  b {
    font-family: var(--mono);
    font-size: var(--t-head);
    margin-right: 0.5em;
    @media ${HAND} {
      font-size: var(--t-lead);
    }
  }
  span {
    color: var(--soft);
    font-size: var(--t-small);
  }
`;
const Next = styled.div`
  display: flex;
  flex-wrap: wrap;
  gap: 4px 10px;
  align-items: center;
  border-top: 1px solid var(--line);
  padding-top: 6px;
  p {
    flex: 1 1 9em;
    line-height: 1.22;
  }
  b {
    color: var(--accent);
    font-weight: 650;
  }
  button {
    flex: none;
  }
  @media ${HAND} {
    padding-top: 4px;
    p {
      font-size: var(--t-note);
    }
  }
`;

/** Where a button leads. */
interface Way {
  text: string;
  stage: string;
  test: string | undefined;
}

/** What settles most where something stands open; nothing while the rule's time runs, for then it is left alone. */
export function nextAction(test: Schemas["TestView"] | undefined) {
  return test?.argued?.is_asked ? test.argued.next[0] : undefined;
}

/** The way on from the stage and the test that are shown; none: one is there. */
function wayOn(
  circuit: Schemas["CircuitView"],
  stage: string,
  test: Schemas["TestView"] | undefined,
): Way | null {
  const { untested, lead } = circuit;
  if (untested) {
    const isHold = untested.stage === "hold";
    // Whoever is there already needs no way there.
    return !isHold && stage === untested.stage
      ? null
      : {
          text: untested.next,
          stage: untested.stage,
          test: isHold ? "new" : undefined,
        };
  }
  if (test?.onward) return { ...test.onward, test: undefined };
  if (!lead) return null;
  const isThere =
    lead.stage === stage && (lead.test == null || lead.test === test?.id);
  return isThere
    ? null
    : { text: lead.text, stage: lead.stage, test: lead.test ?? undefined };
}

/** What comes next, in words. */
function nextWords(
  circuit: Schemas["CircuitView"],
  test: Schemas["TestView"] | undefined,
): string | null {
  const first = nextAction(test);
  if (first)
    return `${first.title}, about ${Math.round(first.minutes)} min: ${first.why}.`;
  if (test && (test.ended_ms == null || !circuit.lead)) return test.next;
  return circuit.lead?.words ?? null;
}

/** The card that leads, on every page of a circuit: the word, the number, the clock, what is inside, and the way on. */
export function Card({
  circuit,
  stage,
  test,
  go,
  isReadOnly,
  isPlanningHold,
}: {
  circuit: Schemas["CircuitView"];
  stage: Schemas["StageView"];
  test: Schemas["TestView"] | undefined;
  go: (stage: string, test?: string) => void;
  isReadOnly: boolean;
  /** Whoever plans the hold need not be sent to plan it. */
  isPlanningHold: boolean;
}) {
  const now = useNow();
  const v = test?.verdict;
  const untested = isPlanningHold ? null : circuit.untested;
  const way = isPlanningHold ? null : wayOn(circuit, stage.code, test);
  const words = untested ? null : nextWords(circuit, test);
  const isOver = test?.ended_ms != null;
  // While something runs well nothing presses; what is at hand after it does.
  const Press = isOver || !test || untested ? Primary : Button;
  return (
    <Box aria-label="What it says">
      {untested && (
        <Leak role="group" aria-label="Not tested again">
          <TriangleAlert size={20} aria-hidden />
          {untested.words}
        </Leak>
      )}
      {v && (
        <Said aria-live="polite">
          <Word word={v.word} shape={v.shape} size={1.2} />
          <Number data-testid="headline">{v.headline}</Number>
        </Said>
      )}
      {!v && !untested && <b>{stage.title}</b>}
      {test?.clock && (
        <Clock>
          <ClockText clock={test.clock} now={now} />
        </Clock>
      )}
      {circuit.kind !== "kit" && (
        <InsideLine circuit={circuit} isReadOnly={isReadOnly} />
      )}
      {(words ?? way) && (
        <Next>
          {words && (
            <p>
              <b>Next </b>
              {words}
            </p>
          )}
          {way && (
            <Press onPress={() => go(way.stage, way.test)}>
              {way.text}
              <ChevronRight size={18} aria-hidden />
            </Press>
          )}
        </Next>
      )}
    </Box>
  );
}
