import { shown } from "./shown";
import { useQueryClient } from "@tanstack/react-query";
import { lazy, Suspense, useEffect, useMemo, useRef } from "react";
import { Link, useNavigate, useParams, useSearchParams } from "react-router";
import styled from "styled-components";
import { useCircuit, useTest } from "../../api/queries";
import type { Schemas } from "../../api/client";
import { Ladder } from "../../charts/Ladder";
import { RunBar } from "../../charts/RunBar";
import { Alerts } from "../../look/Alerts";
import { useMay } from "../../api/session";
import { Covered, useIsCovered } from "../../look/Covered";
import { useAwake } from "../../look/awake";
import { HAND, LYING, useInHand } from "../../look/screen";
import { useKey } from "../../look/keys";
import { LooksOn } from "../../look/LooksOn";
import { useTitle } from "../../look/title";
import { Note, Tag } from "../../look/parts";
import { Sources } from "./Argued";
import { Pad } from "./reading/Pad";
import { Newer } from "./Newer";
import { Path, PathLine } from "./Path";
import { Card } from "./Card";
import { Why } from "./Says";
import { SameAgain } from "./SameAgain";
import { Steps } from "./Steps";
import { InsideLine } from "./inside/Inside";
import { TestPanel } from "./TestPanel";

// A stage is loaded when it comes to that: the test that runs is there first.
const StageRoom = lazy(() => import("./StageRoom"));
const PlanHold = lazy(() => import("./hold/PlanHold"));
const PlanLeakBy = lazy(() => import("./hold/PlanLeakBy"));
const NewTest = lazy(() => import("./NewTest"));
const Survey = lazy(() => import("./survey/Survey"));
const WhatItIs = lazy(() => import("./survey/WhatItIs"));
const Search = lazy(() => import("./search/Search"));
const Release = lazy(() => import("./inside/Release"));
const RigStage = lazy(() => import("./vacuum/RigStage"));

const Page = styled.div<{ $docked: boolean }>`
  display: grid;
  grid-template-columns: 206px minmax(0, 1fr) 318px;
  grid-template-areas: "head head head" "run run run" "path work says" "path work why";
  grid-template-rows: auto auto auto 1fr;
  gap: 0 22px;
  padding: 0 20px 24px;
  max-width: 1500px;
  margin: 0 auto;
  @media (max-width: 1050px) {
    grid-template-columns: 190px minmax(0, 1fr);
    grid-template-areas: "head head" "run run" "path says" "path work" "path why";
    grid-template-rows: auto auto auto auto 1fr;
  }
  @media ${HAND} {
    display: flex;
    flex-direction: column;
    gap: 6px;
    padding: 0 12px ${(p) => (p.$docked ? 0 : 24)}px;
  }
  /* A question is answered first: the pad makes room for it. */
  &:has(> :not([data-dock]) [data-question]) > [data-dock] {
    display: none;
  }
  @media ${LYING} {
    padding-right: ${(p) => (p.$docked ? "calc(46vw + 16px)" : "12px")};
  }
`;
const Head = styled.div`
  h1 {
    outline: none;
  }
  display: flex;
  gap: 12px;
  align-items: center;
  padding: 10px 0;
  & > div {
    flex: 1;
    min-width: 0;
  }
  p {
    color: var(--soft);
    font-size: var(--t-note);
  }
  a {
    min-height: 48px;
    min-width: 48px;
    display: inline-flex;
    align-items: center;
  }
  @media ${HAND} {
    padding: 0;
    gap: 8px;
    h1,
    p {
      overflow: hidden;
      text-overflow: ellipsis;
      white-space: nowrap;
    }
    h1 {
      font-size: var(--t-lead);
    }
    p {
      font-size: var(--t-tiny);
    }
  }
`;
const Work = styled.div`
  grid-area: work;
  min-width: 0;
  display: grid;
  grid-template-columns: minmax(0, 1fr);
  gap: 14px;
  align-content: start;
`;
const Top = styled.div`
  grid-area: head;
  min-width: 0;
`;
const Strip = styled.section`
  grid-area: run;
  min-width: 0;
  padding-bottom: 8px;
  @media ${HAND} {
    border-top: 1px solid var(--line);
    padding: 6px 0;
  }
`;
/** The pad where the thumb is; everything else scrolls behind it. */
const Dock = styled.div`
  position: sticky;
  bottom: 0;
  z-index: 2;
  margin: auto -12px 0;
  @media ${LYING} {
    position: fixed;
    inset: 49px 0 0 auto;
    width: 46vw;
    margin: 0;
    overflow: auto;
    background: var(--paper);
    border-left: 2px solid var(--ink);
    display: grid;
    align-content: end;
  }
`;

/** The running hold's own rung: what would still be hidden if it ended now. */
function liveRung(test: Schemas["TestView"] | undefined) {
  const hold = test?.ended_ms == null ? test?.verdict.hold : null;
  const proves = hold?.leaks ?? hold?.proves;
  return test && proves
    ? { title: test.title, proves, isLeak: hold?.leaks != null }
    : null;
}

/** What a gauge sends is judged more often than the circuit is looked at: a new word bears on the stages at once. */
function useWordChange(circuit: string, test: Schemas["TestView"] | undefined) {
  const cache = useQueryClient();
  const last = useRef<string | null>(null);
  const now = test ? `${test.id} ${test.verdict.word}` : null;
  useEffect(() => {
    const isNew = now !== null && last.current !== null && now !== last.current;
    if (now !== null) last.current = now;
    if (isNew) void cache.invalidateQueries({ queryKey: ["circuit", circuit] });
  }, [cache, circuit, now]);
}

export default function Circuit() {
  const { id = "" } = useParams();
  const [search, setSearch] = useSearchParams();
  const { data: circuit, error } = useCircuit(id);
  const wantedStage = search.get("stage");
  const wanted = search.get("test");
  const { stage, row, isPlanning } = shown(circuit, search);
  const mayWork = useMay("work");
  const isCovered = useIsCovered();
  const isInHand = useInHand();
  useAwake(row !== undefined && row.ended_ms == null);
  const isKit = circuit?.kind === "kit";
  const { data: test } = useTest(isPlanning ? undefined : row?.id);
  useWordChange(id, test);
  const heading = useRef<HTMLHeadingElement>(null);
  const go = useMemo(
    () => (stageCode: string, testId?: string) => {
      setSearch(
        testId ? { stage: stageCode, test: testId } : { stage: stageCode },
      );
      window.scrollTo(0, 0);
      heading.current?.focus({ preventScroll: true });
    },
    [setSearch],
  );
  const step = (by: number) => {
    const at = circuit?.stages.findIndex((s) => s.code === stage?.code) ?? -1;
    const next = circuit?.stages[at + by];
    if (at >= 0 && next) go(next.code);
  };
  const visit = useNavigate();
  // The stage stands in the address from the first look on: what happens meanwhile never changes the page by itself.
  const opened = circuit && wantedStage === null ? stage?.code : undefined;
  useEffect(() => {
    if (opened) setSearch({ stage: opened }, { replace: true });
  }, [opened, setSearch]);
  useTitle(
    circuit && stage
      ? `${row?.title ?? stage.title} · ${circuit.system}, ${circuit.tag}`
      : "",
  );
  useKey("g", () => void visit(`/circuits/${id}/glance`));
  useKey("[", () => step(-1));
  useKey("]", () => step(1));
  // What is on screen stays there, pad included, when asking again fails.
  if (error && !circuit)
    return (
      <Note $kind="wrong" role="alert">
        {error.message}
      </Note>
    );
  if (!circuit || !stage) return <p role="status">One moment …</p>;
  const mayAdd = mayWork && circuit.newer == null;
  const isReadOnly = circuit.signature != null || !mayAdd;
  const kind = stage.plans;
  const isPlanningHold = stage.code === "hold" && isPlanning;
  const plans = isReadOnly || !isPlanning ? undefined : kind;
  const shownTest =
    !isPlanning && row && test?.id === row.id ? test : undefined;
  const running =
    shownTest?.ended_ms == null && !shownTest?.is_signed
      ? shownTest
      : undefined;
  const isDocked = isInHand && running !== undefined && mayAdd;
  const pathProps = { circuit, stage: stage.code, test: shownTest?.id, go };
  const strip = (
    <Strip aria-label="The run">
      <RunBar
        run={circuit.run}
        height={isInHand ? 98 : 64}
        go={(t) => {
          const of = circuit.stages.find((s) =>
            s.tests.some((r) => r.id === t),
          );
          if (of) go(of.code, t);
        }}
      />
    </Strip>
  );
  return (
    <Page $docked={isDocked} {...(isDocked && { "data-docked": true })}>
      {shownTest && <Alerts key={shownTest.id} test={shownTest} />}
      <Top>
        {error && (
          <Note $kind="wrong" role="status">
            Not up to date: {error.message}. What you log is kept and sent
            later.
          </Note>
        )}
        <Newer circuit={circuit} />
        <LooksOn />
        <Head>
          <Tag tag={circuit.tag} isSmall={isInHand} />
          <div>
            <h1 ref={heading} tabIndex={-1}>
              {isKit
                ? circuit.name
                : `${circuit.system}, circuit ${circuit.tag}`}
            </h1>
            <p>
              {isKit
                ? `${circuit.kind_title}, tested apart from every system`
                : `${circuit.name} · ${circuit.refrigerant} · ${circuit.kind_title} · ${circuit.site}`}
            </p>
          </div>
          <Link to={`/circuits/${id}/glance`}>Glance</Link>
          {!isKit && <Link to={`/circuits/${id}/record`}>Record</Link>}
        </Head>
      </Top>
      {isInHand ? <PathLine {...pathProps} /> : !isCovered && strip}
      {!isInHand && <Path key={stage.code} {...pathProps} />}
      <Covered
        besides={
          !isKit && <InsideLine circuit={circuit} isReadOnly={isReadOnly} />
        }
      >
        <Card
          circuit={circuit}
          stage={stage}
          test={shownTest}
          go={go}
          isReadOnly={isReadOnly}
          isPlanningHold={isPlanningHold}
        />
      </Covered>
      <Work>
        <Suspense fallback={<p role="status">One moment …</p>}>
          {stage.code === "survey" && !isKit && (
            <WhatItIs circuit={circuit} isReadOnly={isReadOnly} />
          )}
          {stage.code === "survey" && (
            <Survey circuit={circuit} isReadOnly={isReadOnly} />
          )}
          {plans && stage.code !== "hold" && (
            <NewTest
              key={stage.code}
              circuit={circuit}
              kind={plans}
              onMade={(t) => go(stage.code, t)}
            />
          )}
          {plans && stage.code === "hold" && wanted === "new-leak-by" && (
            <PlanLeakBy
              circuit={circuit}
              onMade={(t) => go(stage.code, t)}
              onCancel={() => go(stage.code, "new")}
            />
          )}
          {plans &&
            stage.code === "hold" &&
            wanted !== "new-leak-by" &&
            circuit.same_again && (
              <SameAgain
                circuit={circuit.id}
                same={circuit.same_again}
                onMade={(t) => go(stage.code, t)}
              />
            )}
          {plans && stage.code === "hold" && wanted !== "new-leak-by" && (
            <PlanHold
              circuit={circuit}
              onMade={(t) => go(stage.code, t)}
              onLeakBy={() => go(stage.code, "new-leak-by")}
            />
          )}
          {stage.code === "search" && (
            <Search circuit={circuit} isReadOnly={isReadOnly} />
          )}
          {stage.code === "release" && (
            <Release circuit={circuit} stage={stage} isReadOnly={isReadOnly} />
          )}
        </Suspense>
        {kind && shownTest && (
          <TestPanel
            key={shownTest.id}
            test={shownTest}
            onNew={isReadOnly ? undefined : () => go(stage.code, "new")}
          />
        )}
        {shownTest?.argued && !isCovered && (
          <Sources
            argued={shownTest.argued}
            isQuiet={
              shownTest.verdict.outcome === "passes" &&
              !shownTest.verdict.decay?.rising
            }
          />
        )}
        {stage.code === "rig_check" && !isKit && (
          <Suspense fallback={null}>
            <RigStage />
          </Suspense>
        )}
        {(stage.code === "hold" || stage.code === "decay") &&
          !isPlanning &&
          !isCovered && (
            <Ladder rungs={circuit.ladder} live={liveRung(shownTest)} />
          )}
        {stage.step_kinds.length > 0 &&
          !isKit &&
          stage.code !== "release" &&
          stage.code !== "break_vacuum" &&
          stage.code !== "start_up" && (
            <Steps circuit={circuit} stage={stage} isReadOnly={isReadOnly} />
          )}
        <Suspense fallback={null}>
          <StageRoom circuit={circuit} stage={stage} isReadOnly={isReadOnly} />
        </Suspense>
      </Work>
      <Why stage={stage} test={isCovered ? undefined : shownTest} />
      {isInHand && !isCovered && strip}
      {isDocked && (
        <Dock data-dock>
          <Pad key={running.id} test={running} />
        </Dock>
      )}
    </Page>
  );
}
