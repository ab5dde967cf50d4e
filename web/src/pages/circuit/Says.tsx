import { Link } from "react-router";
import { useState } from "react";
import styled from "styled-components";
import type { Schemas } from "../../api/client";
import { Quiet } from "../../look/parts";
import { useInHand } from "../../look/screen";
import { atClock } from "../../units/units";
import { CautionList } from "./Cautions";

const Reasons = styled.aside`
  grid-area: why;
  min-width: 0;
  display: grid;
  gap: 12px;
  align-content: start;
  padding-bottom: 10px;
`;
const Fold = styled.details`
  & > summary {
    cursor: pointer;
    min-height: 48px;
    padding: 12px 0;
    font-weight: 650;
  }
  & > div {
    display: grid;
    gap: 10px;
  }
`;
const Evidence = styled.ul`
  display: grid;
  gap: 7px;
  font-size: var(--t-note);
`;
const HowTo = styled(Link)`
  display: inline-block;
  padding: 12px 0;
`;
const Cautions = styled.section`
  border-top: 1px solid var(--line);
  padding-top: 10px;
  font-size: var(--t-note);
`;

/** Lines of evidence shown before all of them are asked for. */
const FEW = 3;

/** What the word rests on. */
function Because({ test }: { test: Schemas["TestView"] }) {
  const v = test.verdict;
  const [isAll, setAll] = useState(false);
  const explained = v.decay?.explanations ?? v.rig?.explanations ?? [];
  const clockAt = (s: number | null | undefined) =>
    s != null && test.ended_ms == null
      ? atClock(test.start_ms + s * 1000)
      : null;
  const likely = clockAt(v.hold?.decided_likely_s);
  const surely = clockAt(v.hold?.decided_surely_s);
  const again = clockAt(v.hold?.again_at_s);
  return (
    <div>
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
    </div>
  );
}

/** The evidence behind the card's word, and the cautions of this stage; in the hand below the trace. */
export function Why({
  stage,
  test,
}: {
  stage: Schemas["StageView"];
  test: Schemas["TestView"] | undefined;
}) {
  const isInHand = useInHand();
  return (
    <Reasons aria-label="Evidence and cautions">
      {test && (
        <Fold key={String(isInHand)} open={!isInHand || undefined}>
          <summary>Why</summary>
          <Because test={test} />
        </Fold>
      )}
      <Cautions aria-label="Cautions">
        <CautionList
          cautions={stage.cautions.filter(
            (c) => !test?.press?.cautions.includes(c.words),
          )}
        />
      </Cautions>
      <HowTo to={`/handbook#${stage.code}`}>How this stage goes</HowTo>
    </Reasons>
  );
}
