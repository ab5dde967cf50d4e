import { lazy, Suspense, useMemo } from "react";
import { Link, useNavigate, useParams, useSearchParams } from "react-router";
import styled from "styled-components";
import { useCircuit, useTest } from "../../api/queries";
import type { Schemas } from "../../api/client";
import { Ladder } from "../../charts/Ladder";
import { RunBar } from "../../charts/RunBar";
import { Alerts } from "../../look/Alerts";
import { useKey } from "../../look/keys";
import { Note, Tag } from "../../look/parts";
import { Sources } from "./Argued";
import { Path } from "./Path";
import { Says, Why } from "./Says";
import { Steps } from "./Steps";
import { PlanHold } from "./PlanHold";
import { PlanLeakBy } from "./PlanLeakBy";
import { Release } from "./Release";
import { RigStage } from "./RigStage";
import { Search } from "./Search";
import { Survey } from "./survey/Survey";
import { TestPanel } from "./TestPanel";
import { NewTest } from "./NewTest";

// The second half of a job is loaded when it comes to that.
const Finish = lazy(() => import("./finish/Finish"));

const Page = styled.div`
  display: grid;
  grid-template-columns: 206px minmax(0, 1fr) 318px;
  grid-template-areas: "head head head" "path work says" "path work why" "run run run";
  grid-template-rows: auto auto 1fr auto;
  gap: 0 22px;
  padding: 0 20px;
  max-width: 1500px;
  margin: 0 auto;
  @media (max-width: 1050px) {
    grid-template-columns: 190px minmax(0, 1fr);
    grid-template-areas: "head head" "path says" "path work" "path why" "run run";
    grid-template-rows: auto auto auto 1fr auto;
  }
  @media (max-width: 760px) {
    grid-template-columns: minmax(0, 1fr);
    grid-template-areas: "head" "says" "work" "why" "path" "run";
    grid-template-rows: none;
    padding: 0 12px 24px;
  }
`;
const Head = styled.div`
  grid-area: head;
  display: flex;
  gap: 12px;
  align-items: center;
  padding: 10px 0;
  & > div {
    flex: 1;
    min-width: 0;
  }
  @media (max-width: 760px) {
    align-items: start;
  }
  p {
    color: var(--soft);
    font-size: 0.95rem;
  }
  a {
    min-height: 48px;
    min-width: 48px;
    display: inline-flex;
    align-items: center;
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
const Stale = styled(Note)`
  grid-column: 1 / -1;
`;
const Foot = styled.section`
  grid-area: run;
  border-top: 1px solid var(--line);
  margin-top: 16px;
  padding: 6px 0;
  @media (min-width: 1051px) and (min-height: 700px) {
    position: sticky;
    bottom: 0;
    background: var(--paper);
  }
`;

function stageShown(
  circuit: Schemas["CircuitView"],
  wanted: string | null,
): Schemas["StageView"] | undefined {
  return (
    circuit.stages.find((s) => s.code === wanted) ??
    circuit.stages.find((s) => s.state === "now") ??
    circuit.stages.at(-1)
  );
}

/** The running hold's own rung: what would still be hidden if it ended now. */
function liveRung(test: Schemas["TestView"] | undefined) {
  const hold = test?.ended_ms == null ? test?.verdict.hold : null;
  const proves = hold?.leaks ?? hold?.proves;
  return test && proves
    ? { title: test.title, proves, isLeak: hold?.leaks != null }
    : null;
}

export default function Circuit() {
  const { id = "" } = useParams();
  const [search, setSearch] = useSearchParams();
  const { data: circuit, error } = useCircuit(id);
  const stage = circuit && stageShown(circuit, search.get("stage"));
  const wanted = search.get("test");
  const row = stage?.tests.find((t) => t.id === wanted) ?? stage?.tests.at(-1);
  const isKit = circuit?.kind === "kit";
  const isPlanning =
    wanted === "new" ||
    wanted === "new-leak-by" ||
    (stage?.plans != null && !row);
  const { data: test } = useTest(isPlanning ? undefined : row?.id);
  const go = useMemo(
    () => (stageCode: string, testId?: string) => {
      setSearch(
        testId ? { stage: stageCode, test: testId } : { stage: stageCode },
      );
      window.scrollTo(0, 0);
    },
    [setSearch],
  );
  const step = (by: number) => {
    const at = circuit?.stages.findIndex((s) => s.code === stage?.code) ?? -1;
    const next = circuit?.stages[at + by];
    if (at >= 0 && next) go(next.code);
  };
  const visit = useNavigate();
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
  const isSigned = circuit.signature != null;
  const kind = stage.plans;
  const plans = isSigned || !isPlanning ? undefined : kind;
  const shownTest =
    !isPlanning && row && test?.id === row.id ? test : undefined;
  return (
    <Page>
      {error && (
        <Stale $kind="wrong" role="status">
          Not up to date: {error.message}. What you log is kept and sent later.
        </Stale>
      )}
      {shownTest && <Alerts key={shownTest.id} test={shownTest} />}
      <Head>
        <Tag tag={circuit.tag} />
        <div>
          <h1>
            {isKit ? circuit.name : `${circuit.system}, circuit ${circuit.tag}`}
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
      <Path circuit={circuit} stage={stage.code} test={shownTest?.id} go={go} />
      <Work>
        {stage.code === "survey" && (
          <Survey circuit={circuit} isReadOnly={isSigned} />
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
        {plans && stage.code === "hold" && wanted !== "new-leak-by" && (
          <PlanHold
            circuit={circuit}
            onMade={(t) => go(stage.code, t)}
            onLeakBy={() => go(stage.code, "new-leak-by")}
          />
        )}
        {stage.code === "search" && (
          <Search circuit={circuit} isReadOnly={isSigned} />
        )}
        {stage.code === "release" && (
          <Release circuit={circuit} stage={stage} isReadOnly={isSigned} />
        )}
        {kind && shownTest && (
          <TestPanel
            key={shownTest.id}
            test={shownTest}
            onNew={isSigned ? undefined : () => go(stage.code, "new")}
          />
        )}
        {shownTest?.argued && (
          <Sources
            argued={shownTest.argued}
            isQuiet={
              shownTest.verdict.outcome === "passes" &&
              !shownTest.verdict.decay?.rising
            }
          />
        )}
        {stage.code === "rig_check" && !isKit && <RigStage />}
        {(stage.code === "hold" || stage.code === "decay") && !isPlanning && (
          <Ladder rungs={circuit.ladder} live={liveRung(shownTest)} />
        )}
        {stage.step_kinds.length > 0 &&
          !isKit &&
          stage.code !== "release" &&
          stage.code !== "break_vacuum" &&
          stage.code !== "start_up" && (
            <Steps circuit={circuit} stage={stage} isReadOnly={isSigned} />
          )}
        <Suspense fallback={null}>
          <Finish circuit={circuit} stage={stage} isReadOnly={isSigned} />
        </Suspense>
      </Work>
      <Says stage={stage} test={shownTest} circuit={circuit} go={go} />
      <Why stage={stage} test={shownTest} />
      <Foot aria-label="The run">
        <RunBar run={circuit.run} height={98} />
      </Foot>
    </Page>
  );
}
