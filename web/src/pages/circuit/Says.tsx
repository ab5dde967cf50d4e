import { useState } from "react";
import styled from "styled-components";
import type { Schemas } from "../../api/client";
import { Button, Quiet } from "../../look/parts";
import { Word } from "../../look/verdict";
import { atClock, span } from "../../units/units";
import { useNow } from "../../look/now";
import { ClockText } from "../Today";
import { CautionList } from "./Cautions";

const Side = styled.aside`
  grid-area: says;
  min-width: 0;
  display: grid;
  gap: 12px;
  align-content: start;
  padding-bottom: 10px;
`;
const Reasons = styled(Side)`
  grid-area: why;
`;
/** In the hand: word and number, then clock and next step on one line each; the rest stands below the trace. */
const Short = styled.aside`
  grid-area: says;
  display: grid;
  gap: 2px;
  padding-bottom: 4px;
  & > div {
    display: flex;
    flex-wrap: wrap;
    gap: 0 10px;
    align-items: baseline;
  }
  & > p {
    display: flex;
    gap: 10px;
    align-items: baseline;
    min-width: 0;
    span {
      overflow: hidden;
      display: -webkit-box;
      -webkit-box-orient: vertical;
      -webkit-line-clamp: 2;
      line-height: 1.2;
      font-size: 0.92rem;
    }
    b {
      flex: none;
      font-family: var(--mono);
      font-size: 1.15rem;
    }
  }
`;
const Number = styled.p`
  font-size: 1.3rem;
  font-weight: 720;
  line-height: 1.1;
  overflow-wrap: anywhere;
`;
const Big = styled.p`
  font-size: 1.7rem;
  font-weight: 720;
  line-height: 1.12;
  letter-spacing: -0.01em;
  overflow-wrap: anywhere;
`;
const Evidence = styled.ul`
  display: grid;
  gap: 7px;
  font-size: 0.96rem;
`;
const Next = styled.p`
  border: 2px solid var(--accent);
  border-radius: 8px;
  padding: 0.55em 0.8em;
  b {
    display: block;
    font-size: 0.86rem;
    color: var(--accent);
  }
`;
const Clock = styled.p`
  b {
    font-family: var(--mono);
    font-size: 1.35rem;
    margin-right: 0.5em;
  }
  span {
    color: var(--soft);
    font-size: 0.92rem;
  }
`;
const Cautions = styled.section`
  border-top: 1px solid var(--line);
  padding-top: 10px;
  font-size: 0.93rem;
`;

/** Lines of evidence shown before all of them are asked for. */
const FEW = 3;

interface SaysProps {
  stage: Schemas["StageView"];
  test: Schemas["TestView"] | undefined;
  circuit: Schemas["CircuitView"];
  go: (stage: string) => void;
}

/** What to do next, in a few words: the action that settles most, where there is something to settle. */
function useNextAction(test: Schemas["TestView"] | undefined) {
  const v = test?.verdict;
  // While the rule's time runs the one thing to do is to leave it alone.
  return v?.outcome === "fails" || v?.decay?.rising
    ? test?.argued?.next[0]
    : undefined;
}

/** With a test running on a phone: what fits above the trace. */
export function SaysShort({ test }: { test: Schemas["TestView"] }) {
  const now = useNow();
  const v = test.verdict;
  const first = useNextAction(test);
  const left = test.clock && (test.clock.at_ms - now) / 1000;
  return (
    <Short aria-label="What it says">
      <div aria-live="polite">
        <Word word={v.word} shape={v.shape} size={1.15} />
        <Number data-testid="headline">{v.headline}</Number>
      </div>
      <p>
        {test.clock && left != null && (
          <b>
            {test.clock.kind === "due" && left <= 0
              ? "due"
              : span(Math.abs(left))}
          </b>
        )}
        <span>{first ? first.title : test.next}</span>
      </p>
    </Short>
  );
}

/** One word, the number, the next step; `isShort`: word, number and clock stand above already. */
export function Says({
  stage,
  test,
  circuit,
  go,
  isShort = false,
}: SaysProps & { isShort?: boolean }) {
  const now = useNow();
  const v = test?.verdict;
  const clock = test?.clock;
  const onward = test?.onward;
  const first = useNextAction(test);
  const clockAt = (s: number | null | undefined) =>
    test && s != null && test.ended_ms == null
      ? atClock(test.start_ms + s * 1000)
      : null;
  const likely = clockAt(v?.hold?.decided_likely_s);
  const surely = clockAt(v?.hold?.decided_surely_s);
  const again = clockAt(v?.hold?.again_at_s);
  return (
    <Side
      aria-label={isShort ? "What it says in full" : "What it says"}
      {...(isShort && { style: { gridArea: "full" } })}
    >
      {v && (
        <>
          {!isShort && (
            <div aria-live="polite">
              <Word word={v.word} shape={v.shape} size={1.3} />
              <Big data-testid="headline">{v.headline}</Big>
            </div>
          )}
          {clock && (
            <Clock>
              <ClockText clock={clock} now={now} />
            </Clock>
          )}
          {test.tightness && <p>{test.tightness}</p>}
          <p>{v.summary}</p>
          {likely && (
            <p>
              Decided at about <strong>{likely}</strong>
              {surely && `, nine times in ten by ${surely}`}.
            </p>
          )}
          {again && (
            <p>
              As warm again as at the start at about <strong>{again}</strong>.
            </p>
          )}
          {first ? (
            <Next as="div">
              <b>Next: what settles most per minute</b>
              {first.title}, about {Math.round(first.minutes)} min: {first.why}.
            </Next>
          ) : (
            <Next>
              <b>Next</b>
              {test.next}
            </Next>
          )}
          {onward && (
            <span>
              <Button onPress={() => go(onward.stage)}>{onward.text}</Button>
            </span>
          )}
        </>
      )}
      {!v && stage.code !== "sign_off" && (
        <p>
          {stage.title} of circuit {circuit.tag}.
        </p>
      )}
    </Side>
  );
}

/** The evidence behind it, and the cautions of this stage; on a phone below the pad. */
export function Why({
  stage,
  test,
}: {
  stage: Schemas["StageView"];
  test: Schemas["TestView"] | undefined;
}) {
  const v = test?.verdict;
  const [isAll, setAll] = useState(false);
  const explained = v?.decay?.explanations ?? v?.rig?.explanations ?? [];
  return (
    <Reasons aria-label="Evidence and cautions">
      {v && (
        <>
          <Evidence>
            {(isAll ? v.evidence : v.evidence.slice(0, FEW)).map((e) => (
              <li key={e}>{e}</li>
            ))}
          </Evidence>
          {v.evidence.length > FEW && (
            <span>
              <Quiet onPress={() => setAll(!isAll)} aria-expanded={isAll}>
                {isAll ? "Fewer" : `All ${v.evidence.length} lines of evidence`}
              </Quiet>
            </span>
          )}
          {explained.length > 0 && (
            <Evidence aria-label="What makes it rise">
              {explained
                .filter((e, i) => i < 4 && e.probability > 0.002)
                .map((e) => (
                  <li key={e.cause}>
                    <strong>{e.title}.</strong> {e.words}
                  </li>
                ))}
            </Evidence>
          )}
        </>
      )}
      <Cautions aria-label="Cautions">
        <CautionList
          cautions={stage.cautions.filter(
            (c) => !test?.press?.cautions.includes(c.words),
          )}
        />
      </Cautions>
    </Reasons>
  );
}
