import { Delete } from "lucide-react";
import { useRef, useState } from "react";
import styled from "styled-components";
import { freshId, type Schemas } from "../../api/client";
import { drop, isReading, keep, keepEvent, useWaiting } from "../../api/outbox";
import { Button, Field, Note, Primary, Quiet } from "../../look/parts";
import { useKey } from "../../look/keys";
import { atSecond, timeOf } from "../../units/units";

const Row = styled.form`
  display: grid;
  grid-template-columns: repeat(auto-fit, minmax(150px, 1fr));
  gap: 8px;
  align-items: end;
  border-top: 2px solid var(--ink);
  padding-top: 10px;
  button {
    min-height: 52px;
  }
  input {
    font-family: var(--mono);
    font-size: 1.35rem;
    font-weight: 600;
  }
`;
const Chips = styled.div`
  display: flex;
  flex-wrap: wrap;
  gap: 6px;
  align-items: end;
  & > button {
    padding: 0.3em 0.6em;
    font-size: 0.92rem;
  }
`;
const Keys = styled.div`
  display: none;
  @media (max-width: 760px), (pointer: coarse) {
    display: grid;
    grid-template-columns: repeat(4, 1fr);
    gap: 6px;
    button {
      min-height: 58px;
      font-size: 1.4rem;
      font-family: var(--mono);
      padding: 0;
    }
  }
`;
const List = styled.ul`
  display: grid;
  gap: 6px;
`;

const KEYS = [
  "7",
  "8",
  "9",
  "back",
  "4",
  "5",
  "6",
  "−",
  "1",
  "2",
  "3",
  "next",
  "0",
  ".",
];

type Draft = Record<string, string>;

/** What is typed but not logged, kept through a reload. */
function useDraft(test: string): [Draft, (next: Draft) => void] {
  const key = `ruhe.draft.${test}`;
  const [draft, set] = useState<Draft>(() => {
    try {
      return JSON.parse(localStorage.getItem(key) ?? "{}") as Draft;
    } catch {
      return {};
    }
  });
  return [
    draft,
    (next) => {
      localStorage.setItem(key, JSON.stringify(next));
      set(next);
    },
  ];
}

const looksWrong = (text: string) =>
  text.trim() !== "" &&
  !/^[−-]?\d*\.?\d+(e[−+-]?\d+)?$|^[−-]?\d+\.$/i.test(text.trim());

/** The reading pad: several channels in one row, stamped by itself, Enter logs; events beside it. */
export function Pad({ test }: { test: Schemas["TestView"] }) {
  const [draft, setDraft] = useDraft(test.id);
  const [isLater, setLater] = useState(false);
  const [time, setTime] = useState("");
  const [problem, setProblem] = useState<string | null>(null);
  const [note, setNote] = useState<string | null>(null);
  const [focus, setFocus] = useState(0);
  const row = useRef<HTMLFormElement>(null);
  const waiting = useWaiting(test.id);
  const channels = test.channels;
  const inputs = () =>
    Array.from(
      row.current?.querySelectorAll<HTMLInputElement>(
        "input[data-channel], [data-channel] input",
      ) ?? [],
    );
  const chips = useRef<HTMLDivElement>(null);
  useKey("r", () => row.current?.querySelector("input")?.focus());
  useKey("e", () => chips.current?.querySelector("button")?.focus());
  const log = () => {
    const filled = channels.filter((c) => (draft[c.id] ?? "").trim());
    const bad = filled.find((c) => looksWrong(draft[c.id] ?? ""));
    const at = isLater ? timeOf(time) : null;
    if (!filled.length) return setProblem("Nothing has been typed yet.");
    if (bad)
      return setProblem(
        `${bad.name}: “${draft[bad.id] ?? ""}” is not a number. Write it with a point, without thousands marks.`,
      );
    if (isLater && at === null)
      return setProblem(
        "When was it read? Write the time as 14:05 or 14:05:30.",
      );
    setProblem(null);
    keep(
      filled.map((c) => ({
        id: freshId(),
        test: test.id,
        channel_id: c.id,
        typed: (draft[c.id] ?? "").trim().replace("−", "-"),
        at_ms: at,
        client_ms: Date.now(),
      })),
    );
    setDraft({});
    inputs()[0]?.focus();
  };
  const tap = (key: string) => {
    const c = channels[focus];
    if (!c) return;
    const now = draft[c.id] ?? "";
    if (key === "next") return setFocus((focus + 1) % channels.length);
    setDraft({
      ...draft,
      [c.id]: key === "back" ? now.slice(0, -1) : now + key,
    });
  };
  const mark = (kind: Schemas["EventKind"], words = "") => {
    if (kind === "other" && !words.trim())
      return setProblem("Say in a few words what happened.");
    setProblem(null);
    keepEvent({ test: test.id, kind, note: words.trim() });
    setNote(null);
  };
  return (
    <>
      <Row
        ref={row}
        aria-label="Reading pad"
        onSubmit={(e) => {
          e.preventDefault();
          log();
        }}
      >
        {channels.map((c, i) => (
          <div key={c.id} data-channel={c.name} onFocus={() => setFocus(i)}>
            <Field
              label={`${c.name}, ${c.unit.replace("deg", "°")}`}
              value={draft[c.id] ?? ""}
              onChange={(v) => setDraft({ ...draft, [c.id]: v })}
              placeholder={c.last ?? ""}
              inputMode="decimal"
            />
          </div>
        ))}
        {isLater && (
          <Field
            label="Read at"
            value={time}
            onChange={setTime}
            placeholder="14:05"
          />
        )}
        <Primary type="submit">Log</Primary>
        <Quiet onPress={() => setLater(!isLater)} aria-pressed={isLater}>
          {isLater ? "It is now" : "Was earlier"}
        </Quiet>
      </Row>
      <Keys aria-hidden>
        {KEYS.map((k) => (
          <Button
            key={k}
            excludeFromTabOrder
            onPress={() => tap(k === "−" ? "-" : k)}
            style={
              channels.length < 2 && k === "next"
                ? { visibility: "hidden" }
                : {}
            }
          >
            {{ back: <Delete size={24} />, next: "Next" }[k] ?? k}
          </Button>
        ))}
      </Keys>
      {problem && (
        <Note $kind="wrong" role="alert">
          {problem}
        </Note>
      )}
      {waiting.length > 0 && (
        <List aria-label="Waiting readings and events">
          {waiting.map((w) => (
            <li key={w.id}>
              <Note
                $kind={w.refused ? "wrong" : "calm"}
                role={w.refused ? "alert" : "status"}
              >
                {isReading(w)
                  ? `${channels.find((c) => c.id === w.channel_id)?.name ?? ""} ${w.typed}`
                  : w.kind.replaceAll("_", " ")}
                , {atSecond(w.at_ms ?? w.client_ms)}:{" "}
                {w.refused ?? "waiting to be stored"}{" "}
                {w.refused && <Quiet onPress={() => drop(w.id)}>Dismiss</Quiet>}
              </Note>
            </li>
          ))}
        </List>
      )}
      <Chips ref={chips} aria-label="Events" role="group">
        {test.marks.map((m) => (
          <Button key={m.kind} onPress={() => mark(m.kind)}>
            {m.title}
          </Button>
        ))}
        {note === null ? (
          <Button onPress={() => setNote("")}>Other …</Button>
        ) : (
          <>
            <Field label="What happened" value={note} onChange={setNote} />
            <Button onPress={() => mark("other", note)}>Note it</Button>
          </>
        )}
      </Chips>
    </>
  );
}
