import { lazy, Suspense } from "react";
import { ChevronRight, Plus, Radio } from "lucide-react";
import { Link, Navigate } from "react-router";
import styled from "styled-components";
import { useDrill } from "../api/drills";
import { drill as room } from "../api/room";
import { useToday } from "../api/queries";
import { useMay } from "../api/session";
import type { Schemas } from "../api/client";
import { RunBar } from "../charts/RunBar";
import { LooksOn } from "../look/LooksOn";
import { useNow } from "../look/now";
import { HiddenText, Mono, Tag } from "../look/parts";
import { Word } from "../look/verdict";
import { atClock, span, onDate, useUnits } from "../units/units";

const Find = lazy(() => import("./today/Find"));
const Greeting = lazy(() => import("./today/Greeting"));

const Page = styled.div`
  max-width: 1240px;
  margin: 0 auto;
  padding: 18px 20px 40px;
  @media (max-width: 700px) {
    padding: 12px 12px 40px;
  }
`;
const Head = styled.div`
  display: flex;
  align-items: center;
  justify-content: space-between;
  gap: 12px;
  margin-bottom: 10px;
`;
const Add = styled(Link)`
  display: inline-flex;
  align-items: center;
  gap: 0.4em;
  min-height: 48px;
  padding: 0 1.1em;
  border-radius: 8px;
  background: var(--accent);
  color: var(--on-accent);
  font-weight: 600;
  text-decoration: none;
`;
const Row = styled(Link)`
  display: grid;
  grid-template-columns:
    auto minmax(220px, 1.3fr) minmax(130px, 0.65fr) minmax(150px, 0.7fr)
    minmax(190px, 1.1fr) minmax(150px, 1fr);
  grid-template-areas: "tag name stage clock word run";
  gap: 4px 18px;
  align-items: center;
  padding: 13px 8px;
  color: inherit;
  text-decoration: none;
  &:hover {
    background: var(--wash);
  }
  @media (max-width: 900px) {
    grid-template-columns: auto 1fr auto;
    grid-template-areas: "tag name name" "word word clock" "run run run" "stage stage stage";
  }
`;
const Item = styled.li`
  display: grid;
  grid-template-columns: minmax(0, 1fr) 172px;
  align-items: center;
  border-top: 1px solid var(--line);
  @media (max-width: 900px) {
    grid-template-columns: minmax(0, 1fr);
    padding-bottom: 10px;
  }
`;
const Go = styled(Link)`
  display: inline-flex;
  align-items: center;
  justify-content: center;
  gap: 0.3em;
  min-height: 48px;
  padding: 0 0.8em;
  border: 1.5px solid var(--accent);
  border-radius: 8px;
  color: var(--accent);
  font-weight: 600;
  text-decoration: none;
  text-align: center;
  line-height: 1.15;
  svg {
    flex: none;
  }
  @media (max-width: 900px) {
    max-width: none;
    margin: 0 8px;
  }
`;
const Name = styled.div`
  grid-area: name;
  min-width: 0;
  strong {
    display: block;
    font-weight: 650;
    overflow-wrap: anywhere;
  }
  span {
    color: var(--soft);
    font-size: var(--t-note);
  }
`;
const Inside = styled.span`
  display: block;
  &::first-letter {
    text-transform: uppercase;
  }
`;
const Stage = styled.div`
  grid-area: stage;
  display: flex;
  align-items: center;
  gap: 0.4em;
`;
const Clock = styled.div`
  grid-area: clock;
  line-height: 1.2;
  b {
    display: block;
    font-size: var(--t-head);
    font-weight: 700;
    font-family: var(--mono);
    font-variant-numeric: tabular-nums;
  }
  span {
    font-size: var(--t-small);
    color: var(--soft);
  }
  @media (max-width: 900px) {
    text-align: right;
  }
`;
const Said = styled.div`
  grid-area: word;
  min-width: 0;
  p {
    color: var(--soft);
    font-size: var(--t-note);
    overflow-wrap: anywhere;
  }
`;
const Run = styled.div`
  grid-area: run;
  min-width: 0;
`;
const Empty = styled.div`
  border-top: 1px solid var(--line);
  padding: 32px 8px;
  max-width: 56ch;
`;

/** A countdown to a due time, or a count since. */
export function ClockText({
  clock,
  now,
}: {
  clock: Schemas["Clock"];
  now: number;
}) {
  const left = (clock.at_ms - now) / 1000;
  const days = left / 86_400;
  if (clock.kind === "due" && days > 2)
    return (
      <>
        <b>{Math.floor(days)} days</b>
        <span>
          until {clock.label}, {onDate(clock.at_ms)}
        </span>
      </>
    );
  if (clock.kind === "due")
    return left > 0 ? (
      <>
        <b>{span(left)}</b>
        <span>
          until {clock.label}, {atClock(clock.at_ms)}
        </span>
      </>
    ) : (
      <>
        <b>due</b>
        <span>
          {clock.label}, since {atClock(clock.at_ms)}
        </span>
      </>
    );
  return (
    <>
      <b>{span(-left)}</b>
      <span>
        {clock.label} {atClock(clock.at_ms)}
      </span>
    </>
  );
}

/** What was found last; a leak that was not tested again stands over it. */
function Verdict({ row }: { row: Schemas["TodayRow"] }) {
  if (row.untested)
    return (
      <>
        <Word word="Not tested again" shape="falling" />
        <p>{row.untested.words}</p>
      </>
    );
  if (!row.verdict) return <p>nothing measured yet</p>;
  return (
    <>
      <Word word={row.verdict.word} shape={row.verdict.shape} />
      <p>{row.tightness ?? row.verdict.headline}</p>
    </>
  );
}

/** The way on: to log where a gauge is read by hand, else to what is at hand. */
function On({
  row,
  lead,
}: {
  row: Schemas["TodayRow"];
  lead: Schemas["LeadView"];
}) {
  const at = new URLSearchParams({ stage: lead.stage });
  if (lead.test) at.set("test", lead.test);
  if (row.untested && lead.stage === "hold") at.set("test", "new");
  if (lead.by_hand) at.set("log", "");
  return (
    <Go to={`/circuits/${row.circuit_id}?${at.toString()}`}>
      {lead.by_hand ? "Log a reading" : lead.text}
      <ChevronRight size={18} aria-hidden />
      <HiddenText>, circuit {row.tag}</HiddenText>
    </Go>
  );
}

function CircuitRow({ row, now }: { row: Schemas["TodayRow"]; now: number }) {
  // What a gauge reads needs nobody: its row leads there.
  const mayWork = useMay("work");
  const isAsked =
    mayWork && row.lead && (row.lead.by_hand || row.lead.test == null);
  return (
    <Item>
      <Row to={`/circuits/${row.circuit_id}`}>
        <Tag tag={row.tag} />
        <Name>
          <strong>{row.system}</strong>
          <span>
            Circuit {row.tag}: {row.name} · {row.refrigerant}
          </span>
          {row.inside && <Inside>{row.inside}</Inside>}
        </Name>
        <Stage>
          {row.state_title ?? row.stage}
          {row.is_live && (
            <Radio size={17} aria-label="a gauge is being listened to" />
          )}
        </Stage>
        <Clock>
          {row.clock ? <ClockText clock={row.clock} now={now} /> : null}
        </Clock>
        <Said>
          <Verdict row={row} />
        </Said>
        <Run>
          <RunBar run={row.run} height={48} isSmall />
        </Run>
      </Row>
      {isAsked && row.lead && <On row={row} lead={row.lead} />}
    </Item>
  );
}

/** Where the work of a drill begins. */
const BEGINS: Record<Schemas["DrillPhase"], string> = {
  pressure: "hold",
  vacuum: "decay",
  charge: "charge",
};

/** A drill has one circuit, and opens where its situation stands. */
export function Today() {
  const drill = useDrill();
  if (room && !drill) return <p role="status">One moment …</p>;
  return drill ? (
    <Navigate
      to={`/circuits/${drill.circuit_id}?stage=${BEGINS[drill.phase]}`}
      replace
    />
  ) : (
    <All />
  );
}

function All() {
  const mayWork = useMay("work");
  const { meta } = useUnits();
  const { data, error } = useToday();
  const now = useNow();
  return (
    <Page>
      <Head>
        <h1>
          Today <Mono>{atClock(now)}</Mono>
        </h1>
        {mayWork && (
          <Add to="/jobs/new">
            <Plus size={20} aria-hidden />
            New job
          </Add>
        )}
      </Head>
      <LooksOn />
      {error && <p role="alert">{error.message}</p>}
      {data && !data.length && (
        <Empty>
          <h2>No circuit in work</h2>
          <p>
            A job names the site, the system and its circuits, and asks for the
            rating plates first: they decide how much nitrogen may go in.
          </p>
        </Empty>
      )}
      {data && !data.length && !meta.sites.length && (
        <Suspense fallback={null}>
          <Greeting mayWork={mayWork} />
        </Suspense>
      )}
      <ul>
        {data?.map((r) => (
          <CircuitRow key={r.circuit_id} row={r} now={now} />
        ))}
      </ul>
      <Suspense fallback={null}>
        <Find />
      </Suspense>
    </Page>
  );
}
