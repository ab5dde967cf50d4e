import { CalendarClock, Download, Radio } from "lucide-react";
import { lazy, Suspense, useState } from "react";
import { Trace } from "../../charts/Trace";
import styled from "styled-components";
import type { Schemas } from "../../api/client";
import { keepEvent } from "../../api/outbox";
import { useWrite, writes } from "../../api/queries";
import { useMay } from "../../api/session";
import { Button, Field, Note, Quiet, Sheet, Trouble } from "../../look/parts";
import { HAND, useInHand } from "../../look/screen";
import { span, trimmed, useUnits } from "../../units/units";
import { Watch } from "./Cautions";
import { End } from "./End";
import { JudgedAgain } from "./JudgedAgain";
import { Pad } from "./reading/Pad";
import { Isolate } from "./vacuum/Isolate";
import { Press } from "./inside/Press";
import { Pull } from "./vacuum/Pull";
import { Readings } from "./reading/Readings";
import { StrikeOut } from "./reading/StrikeOut";
import { Undo } from "./Undo";
import { WaitingList } from "./Waiting";
import { BeforeShut } from "./vacuum/WhenShut";
import { now as nowHere } from "../../api/clock";
import { here } from "../../api/room";

// What few tests need is loaded after what all of them show.
const Paste = lazy(() => import("./reading/Paste"));
const ReadBy = lazy(() => import("./reading/ReadBy"));
const MoveTest = lazy(() => import("./MoveTest"));

const Head = styled.div`
  display: flex;
  @media ${HAND} {
    /* The trace first: what it is made with is read once. */
    order: 1;
  }
  gap: 4px 14px;
  align-items: baseline;
  flex-wrap: wrap;
  p {
    color: var(--soft);
    font-size: var(--t-note);
  }
`;
const Bar = styled.div`
  display: flex;
  gap: 8px;
  flex-wrap: wrap;
  align-items: end;
  @media ${HAND} {
    order: 2;
  }
`;
const Get = styled.a`
  display: inline-flex;
  align-items: center;
  gap: 0.4em;
  min-height: 48px;
  padding: 0 0.8em;
`;
const Box = styled.section`
  display: grid;
  grid-template-columns: minmax(0, 1fr);
  gap: 10px;
  @media ${HAND} {
    & > details {
      order: 3;
    }
  }
`;

/** What is to be done now; in the hand above the trace, so that nothing has to be scrolled to it. */
const Acts = styled.div`
  display: contents;
  @media ${HAND} {
    display: grid;
    gap: 8px;
    order: -1;
    &:empty {
      display: none;
    }
  }
`;

function planWords(
  test: Schemas["TestView"],
  units: ReturnType<typeof useUnits>,
): string {
  const p = test.plan;
  const parts = [
    p.section,
    p.test_pa != null &&
      `planned ${trimmed(units.of("pressure", p.test_pa))} ${units.label("pressure")}${p.planned_s != null ? ` for ${span(p.planned_s)}` : ""}`,
    p.level_pa != null &&
      `limit ${trimmed(units.of("vacuum", p.level_pa))} ${units.label("vacuum")}${p.at_s != null ? ` after ${span(p.at_s)}` : ""}`,
    p.hoses_in && "hoses stay in",
    p.changed != null &&
      (p.changed.length
        ? `since the hold: ${p.changed.join(", ")}`
        : "nothing opened since the hold"),
    test.used.length > 0 && `with ${test.used.map((u) => u.name).join(", ")}`,
    p.imported_from && `from ${p.imported_from}`,
    `limit from: ${test.limit_from}`,
    test.reading_count === 1 ? "1 reading" : `${test.reading_count} readings`,
  ];
  return parts.filter(Boolean).join(" · ");
}

/** Starting the clock by hand takes a reason. */
function ClockByHand({ test }: { test: Schemas["TestView"] }) {
  const [isOpen, setOpen] = useState(false);
  const [reason, setReason] = useState("");
  const save = useWrite(writes.clock(test.id));
  if (!isOpen)
    return (
      <Button onPress={() => setOpen(true)}>Start the clock myself</Button>
    );
  return (
    <Sheet aria-label="Start the clock myself">
      <Field
        label="Why now"
        value={reason}
        onChange={setReason}
        placeholder="settled 20 min before the first reading"
        error={save.error?.message}
      />
      <Button onPress={() => save.mutate({ at_ms: nowHere(), reason })}>
        Start the clock
      </Button>
      <Quiet onPress={() => setOpen(false)}>Leave it</Quiet>
    </Sheet>
  );
}

/** Height of a trace that leaves room for what stands above it and for the pad below, px. */
const roomForTrace = () =>
  Math.max(150, Math.min(280, window.innerHeight - 560));

/** One test: its trace, the pad under it (in the hand it is fixed below), what was logged. */
export function TestPanel({
  test,
  onNew,
}: {
  test: Schemas["TestView"];
  onNew?: (() => void) | undefined;
}) {
  const units = useUnits();
  const listen = useWrite(writes.listen(test.id));
  const mayWork = useMay("work");
  const isOpen = test.ended_ms == null && !test.is_signed && mayWork;
  const isInHand = useInHand();
  const isHold = test.kind === "pressure-hold";
  const [isReading, setReading] = useState(false);
  const error = listen.error;
  return (
    <Box aria-label={test.title}>
      <Head>
        <h2>{test.title}</h2>
        <p>{planWords(test, units)}</p>
      </Head>
      {test.watch && test.watch.level !== "within" && (
        <Watch watch={test.watch} />
      )}
      {test.doubtful > 0 && !test.is_signed && !isReading && (
        <Note role="status">
          {test.doubtful === 1
            ? "1 reading stands apart and is left out."
            : `${test.doubtful} readings stand apart and are left out.`}{" "}
          <Button
            onPress={() => {
              setReading(true);
              window.setTimeout(() =>
                document.getElementById("readings")?.scrollIntoView(),
              );
            }}
          >
            Look at it
          </Button>
        </Note>
      )}
      {isOpen && isHold && (
        <BeforeShut
          test={test}
          onSaid={(at_ms) =>
            keepEvent({ test: test.id, kind: "supply_isolated", at_ms })
          }
        />
      )}
      {test.remarks.map((r) => (
        <Note key={r}>{r}</Note>
      ))}
      {test.plan.strength && (
        <Note>
          Strength test above a plate by {test.plan.strength.code},{" "}
          {test.plan.strength.edition}, factor {test.plan.strength.factor}:{" "}
          {test.plan.strength.reason}
        </Note>
      )}
      {!test.press && test.verdict.trace.length > 1 && (
        <Trace
          test={test}
          {...(isInHand && isOpen && { height: roomForTrace() })}
        />
      )}
      {!test.press && test.verdict.trace.length <= 1 && (
        <Note>The trace begins with the second reading.</Note>
      )}
      <Acts>
        <Undo test={test} />
        {isOpen && <Press test={test} />}
        {isOpen && <Pull test={test} />}
        {isOpen && <Isolate test={test} />}
      </Acts>
      {isOpen && !isInHand && <Pad test={test} />}
      <WaitingList test={test} />
      {isOpen && (
        <Suspense fallback={null}>
          <ReadBy test={test} />
        </Suspense>
      )}
      {test.has_simulated && (
        <Note>
          Readings of a simulated gauge are in this test: it says nothing about
          a real system.
        </Note>
      )}
      {test.watch?.level === "within" && <Watch watch={test.watch} />}
      <Trouble of={error} />
      <Bar>
        {isOpen && (
          <>
            <Suspense fallback={null}>
              <Paste test={test} />
            </Suspense>
            {units.meta.simulated_gauges.includes(test.kind) && (
              <Button onPress={() => listen.mutate(!test.is_live)}>
                <Radio size={19} aria-hidden />
                {test.is_live
                  ? "Stop listening"
                  : "Listen to a simulated gauge"}
              </Button>
            )}
            {isHold &&
              test.reading_count > 0 &&
              !test.press &&
              test.verdict.hold?.settled_at_s == null && (
                <ClockByHand test={test} />
              )}
            {test.reading_count > 0 ? (
              <End test={test} />
            ) : (
              <StrikeOut
                circuit={test.circuit_id}
                entry={test.id}
                what={test.title}
                label={`Strike out ${test.title}`}
              />
            )}
          </>
        )}
        {!isOpen && onNew && (
          <>
            <Button onPress={onNew}>Test again</Button>
            {test.end_id != null && (
              <StrikeOut
                circuit={test.circuit_id}
                entry={test.end_id}
                what={`the end of ${test.title}`}
                label="Reopen this test"
              />
            )}
            <StrikeOut
              circuit={test.circuit_id}
              entry={test.id}
              what={test.title}
              label={`Strike out ${test.title}`}
            />
            {test.reading_count > 0 && (
              <Suspense fallback={null}>
                <MoveTest test={test} />
              </Suspense>
            )}
          </>
        )}
        {isOpen && (
          <Get href={here(`/api/tests/${test.id}/calendar.ics`)} download>
            <CalendarClock size={19} aria-hidden />
            Reminders
          </Get>
        )}
        {test.reading_count > 0 && (
          <Get href={here(`/api/tests/${test.id}/package`)} download>
            <Download size={19} aria-hidden />
            Data package
          </Get>
        )}
      </Bar>
      {test.ended_ms != null && <JudgedAgain test={test} />}
      <Readings test={test} isOpen={isReading} setOpen={setReading} />
    </Box>
  );
}
