import { useTitle } from "../../look/title";
import { useState } from "react";
import { FileTrigger } from "react-aria-components";
import { span } from "../../units/units";
import styled from "styled-components";
import { Refusal, type Schemas } from "../../api/client";
import { drills, useShelf } from "../../api/drills";
import { useWrite } from "../../api/queries";
import { useMay } from "../../api/session";
import { Button, Note, Primary, Quiet, Row as Side } from "../../look/parts";
import { Page, Row } from "../../look/page";
import { MakeDrill } from "./MakeDrill";

const Levels = styled.div`
  display: grid;
  gap: 8px 14px;
  grid-template-columns: repeat(auto-fit, minmax(230px, 1fr));
  button {
    display: block;
    text-align: left;
    padding: 8px 12px;
    &[aria-pressed="true"] {
      border-color: var(--accent);
      background: var(--accent-wash);
    }
  }
  small {
    display: block;
    color: var(--soft);
    font-size: var(--t-small);
    font-weight: 450;
  }
`;
const List = styled.ul`
  display: grid;
`;
const Tell = styled(Row)`
  b.best {
    font-family: var(--mono);
  }
  @media (max-width: 600px) {
    grid-template-columns: minmax(0, 1fr);
  }
`;

const Two = styled.span`
  display: flex;
  flex-wrap: wrap;
  gap: 4px 12px;
  align-items: center;
  a {
    min-height: 48px;
    display: inline-flex;
    align-items: center;
  }
`;

const LEVELS: [Schemas["Level"], string, string][] = [
  ["words", "With Ruhe’s words", "You see what Ruhe makes of it"],
  ["gauges", "Gauges only", "A look at Ruhe’s words costs 2 points"],
  ["exam", "Exam", "The same, with figures that nobody has seen"],
];
const PHASES: Record<Schemas["DrillPhase"], string> = {
  pressure: "Under pressure",
  vacuum: "Under vacuum",
  charge: "Charge and start-up",
};

/** Throws a drill away, asked twice: nothing of it comes back. */
function Forget({ drill }: { drill: Schemas["DrillRow"] }) {
  const [isAsked, setAsked] = useState(false);
  const forget = useWrite(drills.forget);
  if (!isAsked)
    return (
      <Quiet
        aria-label={`Forget ${drill.title}`}
        onPress={() => setAsked(true)}
      >
        Forget
      </Quiet>
    );
  return (
    <Button
      aria-label={`Forget for good: ${drill.title}`}
      isDisabled={forget.isPending}
      onPress={() => forget.mutate(drill.id)}
    >
      Forget for good
    </Button>
  );
}

/** The shelf of drills: nothing of it is among the jobs. */
export default function Drills() {
  useTitle("Drills");
  const { data, refetch } = useShelf();
  const [level, setLevel] = useState<Schemas["Level"]>("words");
  const [isMaking, setMaking] = useState(false);
  const begin = useWrite(drills.begin);
  const take = useWrite(drills.take);
  const mayWork = useMay("work");
  const error = begin.error ?? take.error;
  if (!data) return <p role="status">One moment …</p>;
  const start = (s: Schemas["ScenarioRow"]) =>
    begin.mutate(
      { number: s.number, own: s.own, level },
      { onSuccess: (made) => location.assign(`/drill/${made.id}/`) },
    );
  const phases = [...new Set(data.scenarios.map((s) => s.phase))];
  const running = data.drills.filter((d) => !d.is_over);
  const over = data.drills.filter((d) => d.is_over);
  return (
    <Page>
      <h1>Drills</h1>
      <p>
        Practice on a simulated plant that hides its fault, on the real screens
        and with a clock that can be hurried. Nothing of it gets among the jobs.
        Harm is possible, and ends the drill.
      </p>
      {error && (
        <Note $kind="wrong" role="alert">
          {error instanceof Refusal
            ? error.message
            : "This file is not a drill: it cannot be read."}
        </Note>
      )}
      {running.length > 0 && (
        <section aria-label="Not finished">
          <h2>Not finished</h2>
          <List>
            {running.map((d) => (
              <Tell key={d.id}>
                <strong>{d.title}</strong>
                <Two>
                  <a href={`/drill/${d.id}/`}>Go on</a>
                  <Forget drill={d} />
                </Two>
              </Tell>
            ))}
          </List>
        </section>
      )}
      <Levels role="group" aria-label="What you see">
        {LEVELS.map(([code, title, words]) => (
          <Button
            key={code}
            aria-pressed={level === code}
            onPress={() => setLevel(code)}
          >
            {title} <small>{words}</small>
          </Button>
        ))}
      </Levels>
      {phases.map((phase) => (
        <section key={phase} aria-label={PHASES[phase]}>
          <h2>{PHASES[phase]}</h2>
          <List>
            {data.scenarios
              .filter((s) => s.phase === phase)
              .map((s) => (
                <Tell key={s.own ?? s.number}>
                  <div>
                    <strong>
                      {s.own ? "" : `${s.number}. `}
                      {s.title}
                    </strong>
                    <p>{s.told}</p>
                    <p>
                      a good run takes {span(60 * s.par_minutes)}
                      {s.best != null && (
                        <>
                          {" · "}best <b className="best">{s.best}</b>
                          {s.times > 1 && ` of ${s.times}`}
                        </>
                      )}
                      {s.is_mine && (
                        <>
                          {" · "}
                          <a href={`/api/drills/files/${s.own}`} download>
                            its file, with the truth in it
                          </a>
                        </>
                      )}
                    </p>
                  </div>
                  {mayWork && (
                    <Button
                      aria-label={`Begin ${s.title}`}
                      isDisabled={begin.isPending}
                      onPress={() => start(s)}
                    >
                      Begin
                    </Button>
                  )}
                </Tell>
              ))}
          </List>
        </section>
      ))}
      <section aria-label="How it went">
        <h2>How it went</h2>
        {data.calibration ? (
          <>
            <p>
              {data.calibration.words} Brier score{" "}
              {data.calibration.brier.toFixed(2)} (0 is perfect, 0.25 a coin).
            </p>
            <ul>
              {data.calibration.bins.map((b) => (
                <li key={b.said}>
                  Said {Math.round(b.said * 100)} % sure: right{" "}
                  {Math.round(b.right * 100)} % of {b.count}.
                </li>
              ))}
            </ul>
          </>
        ) : (
          <p>Nothing decided yet.</p>
        )}
        <List>
          {over.map((d) => (
            <Tell key={d.id}>
              <div>
                <strong>{d.title}</strong>
                <p>
                  {d.is_lost ? "lost" : `${d.total} points`}
                  {d.is_right != null && (d.is_right ? " · right" : " · wrong")}
                  {d.sure != null && ` · ${Math.round(d.sure * 100)} % sure`}
                </p>
              </div>
              <Two>
                <a href={`/drill/${d.id}/debrief`}>Look again</a>
                <Forget drill={d} />
              </Two>
            </Tell>
          ))}
        </List>
      </section>
      {mayWork && (
        <section aria-label="For teachers">
          <h2>For teachers</h2>
          <p>
            A drill of your own is an open file. Hand it out; whoever takes it
            in can work it. Results come back as files.
          </p>
          <Side>
            <Primary onPress={() => setMaking(true)}>Make a drill</Primary>
            <FileTrigger
              acceptedFileTypes={["application/json", ".json"]}
              onSelect={(files) => {
                const file = files?.[0];
                if (file)
                  take.mutate(file, { onSuccess: () => void refetch() });
              }}
            >
              <Button>Take in a drill’s file</Button>
            </FileTrigger>
          </Side>
          {isMaking && (
            <MakeDrill
              onDone={() => {
                setMaking(false);
                void refetch();
              }}
            />
          )}
        </section>
      )}
    </Page>
  );
}
