import { Bell, BellOff, X } from "lucide-react";
import { Link, useNavigate, useParams } from "react-router";
import styled from "styled-components";
import { setChime, useChime } from "../api/alerts";
import { useCircuit, useTest } from "../api/queries";
import type { Schemas } from "../api/client";
import { Alerts } from "../look/Alerts";
import { useAwake } from "../look/awake";
import { bare, useIsCovered } from "../look/Covered";
import { useKey } from "../look/keys";
import { useNow } from "../look/now";
import { Trace } from "../charts/Trace";
import { Button, Tag } from "../look/parts";
import { colourOf, Mark } from "../look/verdict";
import { atClock, span } from "../units/units";
import { Watch } from "./circuit/Cautions";
import { Newer } from "./circuit/Newer";

const Full = styled.div`
  position: fixed;
  inset: 0;
  z-index: 5;
  background: var(--paper);
  display: flex;
  flex-direction: column;
  gap: 1.5vh;
  padding: 2vh 3vw;
  overflow: hidden;
  > :last-child {
    flex: 1;
    min-height: 0;
  }
`;
const Loud = styled.div`
  && p {
    font-size: clamp(1.3rem, 3vw, 2.6rem);
    align-items: center;
  }
`;
const Top = styled.div`
  display: flex;
  align-items: center;
  gap: 14px;
  font-size: var(--t-lead);
  @media (max-width: 600px) {
    font-size: var(--t-note);
    gap: 8px;
    button {
      padding: 0.4em;
    }
  }
  & > p {
    flex: 1;
    min-width: 0;
    overflow: hidden;
    text-overflow: ellipsis;
    white-space: nowrap;
  }
  a {
    min-width: 48px;
    min-height: 48px;
    display: grid;
    place-items: center;
    color: var(--ink);
  }
`;
const WordLine = styled.p<{ $shape: string }>`
  color: ${(p) => colourOf(p.$shape)};
  font-size: min(9vw, 13vh);
  font-weight: 750;
  line-height: 1;
  @media (orientation: portrait) {
    font-size: min(15vw, 9vh);
  }
  display: flex;
  align-items: center;
  gap: 0.3em;
  svg {
    flex: none;
    width: 0.9em;
    height: 0.9em;
  }
`;
const Number = styled.p`
  font-size: min(6.6vw, 9vh);
  font-weight: 650;
  line-height: 1.05;
  @media (orientation: portrait) {
    font-size: min(11vw, 7vh);
  }
  display: flex;
  flex-wrap: wrap;
  justify-content: space-between;
  gap: 0 0.8em;
  b {
    font-family: var(--mono);
    font-weight: 700;
  }
  small {
    font-size: 0.42em;
    font-weight: 500;
    color: var(--soft);
  }
`;

const Proves = styled.small`
  display: block;
  line-height: 1.2;
`;

/** Word, number, clock and a moving trace, readable from three metres. */
export default function Glance() {
  const { id = "" } = useParams();
  const { data: circuit } = useCircuit(id);
  const rows = circuit?.stages.flatMap((s) => s.tests) ?? [];
  const running = rows.filter((t) => t.ended_ms == null);
  const row = [...(running.length ? running : rows)]
    .sort((a, b) => a.created_ms - b.created_ms)
    .at(-1);
  const { data: test } = useTest(row?.id);
  const now = useNow();
  const leave = useNavigate();
  useKey("escape", () => void leave(`/circuits/${id}`));
  const hasChime = useChime();
  useAwake(true);
  const isCovered = useIsCovered();
  const v = isCovered && test ? bare(test.verdict) : test?.verdict;
  const clockOf = ({ at_ms, label }: Schemas["Clock"]) =>
    at_ms > now
      ? {
          big: span((at_ms - now) / 1000),
          small: `until ${label}, ${atClock(at_ms)}`,
        }
      : { big: "due", small: `${label}, since ${atClock(at_ms)}` };
  const clock = test?.clock?.kind === "due" ? clockOf(test.clock) : null;
  return (
    <Full role="region" aria-label="Glance">
      {test && <Alerts key={test.id} test={test} />}
      <Top>
        {circuit && <Tag tag={circuit.tag} />}
        <p>
          <strong>
            {circuit ? `${circuit.system}, circuit ${circuit.tag}` : ""}
          </strong>{" "}
          {test?.title}
        </p>
        <Button onPress={() => setChime(!hasChime)} aria-pressed={hasChime}>
          {hasChime ? (
            <Bell size={20} aria-hidden />
          ) : (
            <BellOff size={20} aria-hidden />
          )}
          {hasChime ? "Chimes" : "Silent"}
        </Button>
        <Link to={`/circuits/${id}`} aria-label="Close glance">
          <X size={28} aria-hidden />
        </Link>
      </Top>
      {circuit && <Newer circuit={circuit} />}
      <WordLine aria-live="polite" $shape={v?.shape ?? "none"}>
        {v ? (
          <>
            <Mark shape={v.shape} size={64} />
            {v.word}
          </>
        ) : (
          "No test yet"
        )}
      </WordLine>
      {test?.watch && test.watch.level !== "within" && (
        <Loud>
          <Watch watch={test.watch} />
        </Loud>
      )}
      <Number>
        <span>
          {v?.headline}
          {!isCovered && test?.tightness && <Proves>{test.tightness}</Proves>}
        </span>
        {clock ? (
          <span>
            <b>{clock.big}</b> <small>{clock.small}</small>
          </span>
        ) : (
          <b>{atClock(now)}</b>
        )}
      </Number>
      <div>
        {test && v && v.trace.length > 1 && (
          <Trace
            test={test}
            height={Math.max(150, Math.round(window.innerHeight * 0.42))}
          />
        )}
      </div>
    </Full>
  );
}
