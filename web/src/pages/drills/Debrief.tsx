import { useEffect, useState } from "react";
import styled from "styled-components";
import type { Schemas } from "../../api/client";
import { useDrill } from "../../api/drills";
import { drill as drillId } from "../../api/room";
import { Button, Note } from "../../look/parts";
import { Page } from "../../look/page";
import { Word } from "../../look/verdict";
import { sinceCame } from "./since";
import { HandsLog } from "./Hands";
import { TruthTrace } from "./TruthTrace";

const Head = styled.header`
  display: grid;
  gap: 6px;
  h1 b {
    font-family: var(--mono);
    font-size: var(--t-number);
    margin-right: 0.3em;
  }
`;
const Account = styled.table`
  border-collapse: collapse;
  width: 100%;
  td,
  th {
    text-align: left;
    vertical-align: top;
    padding: 6px 12px 6px 0;
    border-bottom: 1px solid var(--line);
  }
  td:first-child {
    font-family: var(--mono);
    white-space: nowrap;
    font-weight: 650;
    width: 6.5em;
  }
  td:nth-child(2) {
    width: 6em;
    color: var(--soft);
  }
`;
const Section = styled.section`
  display: grid;
  grid-template-columns: minmax(0, 1fr);
  gap: 10px;
  border-top: 2px solid var(--line);
  padding-top: 12px;
`;
const Key = styled.p`
  display: flex;
  flex-wrap: wrap;
  gap: 4px 20px;
  font-size: var(--t-note);
  svg {
    vertical-align: 3px;
    margin-right: 0.5em;
  }
`;
const Path = styled.ol`
  display: grid;
  gap: 2px;
  li {
    display: grid;
    grid-template-columns: 4em 1fr;
    padding: 2px 0;
    color: var(--soft);
  }
  li[data-done] {
    color: var(--ink);
  }
  time {
    font-family: var(--mono);
  }
`;

const stroke = (colour: string, width: number, dash?: string) => (
  <svg width="34" height="8" aria-hidden>
    <path
      d="M0 4h34"
      stroke={`var(${colour})`}
      strokeWidth={width}
      strokeDasharray={dash}
      opacity={width > 4 ? 0.5 : 1}
    />
  </svg>
);

/** So long a replay lasts, ms. */
const REPLAY = 12_000;

/** The cheapest way: its steps, and its trace drawn as they are done. */
function Cheapest({
  result,
  isVacuum,
}: {
  result: Schemas["ResultView"];
  isVacuum: boolean;
}) {
  const end = Math.max(
    result.cheapest.at(-1)?.at_s ?? 0,
    result.path.at(-1)?.until_s ?? 0,
  );
  const [at, setAt] = useState(end);
  const [isRunning, setRunning] = useState(false);
  useEffect(() => {
    if (!isRunning) return;
    const timer = window.setInterval(() => {
      setAt((was) => {
        const next = was + (end * 100) / REPLAY;
        if (next >= end) setRunning(false);
        return Math.min(end, next);
      });
    }, 100);
    return () => window.clearInterval(timer);
  }, [isRunning, end]);
  return (
    <Section>
      <h2>The cheapest way: {Math.round(end / 60)} minutes</h2>
      <span>
        <Button
          onPress={() => {
            setAt(0);
            setRunning(true);
          }}
        >
          Replay it
        </Button>
      </span>
      <TruthTrace
        points={result.cheapest}
        isVacuum={isVacuum}
        until={at}
        summary="The cheapest way: what the gauge would have shown."
        height={200}
      />
      <Path>
        {result.path.map((s, i) => (
          <li key={i} data-done={s.until_s <= at || undefined}>
            <time>{sinceCame(s.until_s)}</time>
            <span>{s.words}</span>
          </li>
        ))}
      </Path>
    </Section>
  );
}

const SHAPES: Record<string, string> = {
  holds: "holds",
  falls: "falling",
  passes: "holds",
  fails: "falling",
};

/** How a drill went: the account, the truth, the cheapest way, and what Ruhe said. */
export default function Debrief() {
  const drill = useDrill();
  const result = drill?.result;
  if (!drill) return null;
  if (!result)
    return (
      <Page>
        <p>This drill is not over yet. Decide, and you will see.</p>
      </Page>
    );
  const { account } = result;
  const isVacuum = drill.phase === "vacuum";
  return (
    <Page>
      <Head>
        <h1>
          <b>{account.total}</b> of 100{account.lost && ": lost"}
        </h1>
        {account.lost && <Note $kind="wrong">{account.lost}</Note>}
        {result.harm && <Note $kind="wrong">{result.harm}</Note>}
        <p>
          <strong>What was true.</strong> {result.reveals}
        </p>
        <p>
          {result.decided ? `You decided: ${result.decided}. ` : ""}
          {!account.is_right && `It was: ${result.right}.`}
        </p>
      </Head>
      {drill.phase !== "charge" && (
        <Section>
          <h2>The truth over what you saw</h2>
          <TruthTrace
            points={result.own}
            isVacuum={isVacuum}
            summary="What the gauge showed, and what was true."
          />
          <Key>
            <span>{stroke("--accent", 2)}shown</span>
            <span>{stroke("--notch", 5)}true</span>
            <span>
              {stroke("--ink", 2, "7 5")}true, if temperature had stayed the
              same
            </span>
          </Key>
        </Section>
      )}
      <Section>
        <h2>The account</h2>
        <Account>
          <tbody>
            {account.lines.map((l, i) => (
              <tr key={i}>
                <td>
                  {+l.points.toFixed(1)}
                  {l.of > 0 && ` of ${+l.of.toFixed(1)}`}
                </td>
                <td>{l.part}</td>
                <td>{l.why}</td>
              </tr>
            ))}
          </tbody>
        </Account>
      </Section>
      <Section>
        <h2>What Ruhe said at that moment</h2>
        {result.ruhe.length === 0 && (
          <p>Nothing: no test was kept, so it had nothing to judge.</p>
        )}
        {result.ruhe.map((r) => (
          <p key={r.test}>
            {r.test}: <Word word={r.word} shape={SHAPES[r.outcome] ?? "open"} />{" "}
            {r.headline}
          </p>
        ))}
      </Section>
      {drill.phase !== "charge" && (
        <Cheapest result={result} isVacuum={isVacuum} />
      )}
      <Section>
        <h2>What you did</h2>
        <HandsLog log={drill.log} />
        <p>
          <a href={`/api/drills/${drillId}/result`} download>
            The result as a file, for a teacher
          </a>{" "}
          · <a href="/drills">All drills</a>
        </p>
      </Section>
    </Page>
  );
}
