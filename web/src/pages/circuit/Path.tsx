import { Check, ChevronRight, Circle } from "lucide-react";
import styled from "styled-components";
import type { Schemas } from "../../api/client";
import { HiddenText } from "../../look/parts";
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
    font-size: 0.94rem;
  }
  li li button[aria-current="true"] {
    box-shadow: inset 3px 0 0 var(--accent);
  }
  small {
    color: var(--soft);
    margin-left: auto;
    font-family: var(--mono);
  }
  @media (max-width: 760px) {
    border-right: 0;
    border-top: 1px solid var(--line);
    padding: 8px 0 0;
    margin-top: 14px;
  }
`;

interface PathProps {
  circuit: Schemas["CircuitView"];
  stage: string;
  test: string | undefined;
  go: (stage: string, test?: string) => void;
}

/** Stages in order, attempts nested under them. */
export function Path({ circuit, stage, test, go }: PathProps) {
  return (
    <Nav aria-label="Stages">
      <ol>
        {circuit.stages.map((s) => (
          <li key={s.code}>
            <button
              type="button"
              className={s.state}
              aria-current={s.code === stage ? "step" : undefined}
              onClick={() => go(s.code)}
            >
              {STATES[s.state]}
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
                      <Mark shape={t.shape} size={18} />
                      {t.title} <HiddenText>{t.word}</HiddenText>
                      <small>{atClock(t.created_ms)}</small>
                    </button>
                  </li>
                ))}
              </ol>
            )}
          </li>
        ))}
      </ol>
    </Nav>
  );
}
