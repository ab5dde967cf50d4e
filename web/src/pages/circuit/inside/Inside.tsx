import { ChevronDown, ChevronUp, TriangleAlert } from "lucide-react";
import { lazy, Suspense, useState } from "react";
import styled from "styled-components";
import { type Schemas } from "../../../api/client";
import { HiddenText } from "../../../look/parts";
import { HAND } from "../../../look/screen";
import { atClock } from "../../../units/units";
import { Open } from "../Unfolded";

const Line = styled.button`
  display: flex;
  align-items: center;
  gap: 8px;
  width: 100%;
  min-height: 48px;
  padding: 4px 0;
  border: 0;
  border-top: 1px solid var(--line);
  background: transparent;
  color: var(--ink);
  text-align: left;
  cursor: pointer;
  & > span {
    flex: 1;
    min-width: 0;
    line-height: 1.25;
  }
  svg {
    flex: none;
  }
  @media ${HAND} {
    font-size: var(--t-note);
  }
`;
const Held = styled.span<{ $hurts: boolean }>`
  display: inline-block;
  ${(p) => p.$hurts && "font-weight: 650;"}
  &::first-letter {
    text-transform: uppercase;
  }
`;
const Area = styled.section`
  min-width: 0;
`;

type Inside = Schemas["InsideView"];
// Loaded when somebody says that it is not so.
const Correct = lazy(() => import("./InsideCorrect"));

function Story({ inside }: { inside: Inside }) {
  return (
    <ol reversed>
      {inside.story.map((m, i) => (
        <li key={`${m.entry}-${i}`}>
          <strong>{m.words}</strong>
          {m.at_ms != null && ` · ${atClock(m.at_ms)}`}
          {m.by && ` · ${m.by}`}
          <small>{m.after.join(" · ")}</small>
        </li>
      ))}
    </ol>
  );
}

/** What is inside now, in one line on every page of a circuit; opened, how it came so and how to put it right. */
export function InsideLine({
  circuit,
  isReadOnly,
}: {
  circuit: Schemas["CircuitView"];
  isReadOnly: boolean;
}) {
  const [isOpen, setOpen] = useState(false);
  const { inside } = circuit;
  const hurts = inside.spaces.some((s) => s.can_hurt);
  const latest = Math.max(0, ...inside.spaces.map((s) => s.seen_ms ?? 0));
  return (
    <Area aria-label="What is inside now" data-testid="inside">
      <Line
        type="button"
        aria-expanded={isOpen}
        onClick={() => setOpen(!isOpen)}
      >
        {hurts && <TriangleAlert size={18} aria-hidden />}
        <span>
          <HiddenText>Inside: </HiddenText>
          <Held $hurts={hurts}>
            {inside.line}
            {latest > 0 && `, ${atClock(latest)}`}
          </Held>
        </span>
        {isOpen ? (
          <ChevronUp size={18} aria-hidden />
        ) : (
          <ChevronDown size={18} aria-hidden />
        )}
      </Line>
      {isOpen && (
        <>
          {!isReadOnly && (
            <Suspense fallback={null}>
              <Correct circuit={circuit} onDone={() => setOpen(false)} />
            </Suspense>
          )}
          <Open>
            <h2>What was inside, the last first</h2>
            <Story inside={inside} />
          </Open>
        </>
      )}
    </Area>
  );
}
