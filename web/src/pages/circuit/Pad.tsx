import { useRef, useState } from "react";
import styled from "styled-components";
import { freshId, type Schemas } from "../../api/client";
import { drop, isReading, keep, keepEvent, useWaiting } from "../../api/outbox";
import { Button, Field, Note, Primary, Prompt, Quiet } from "../../look/parts";
import { useKey } from "../../look/keys";
import { PhotoButton } from "../../look/PhotoButton";
import { HAND, TOUCHED, useIsTouched } from "../../look/screen";
import { atSecond, timeOf, useUnits } from "../../units/units";
import { useNow } from "../../look/now";
import { useWrite, writes } from "../../api/queries";
import { Keypad } from "./Keypad";
import { now as nowHere } from "../../api/clock";

const Box = styled.div`
  display: grid;
  gap: 10px;
  border-top: 2px solid var(--ink);
  padding-top: 10px;
  @media ${HAND} {
    gap: 8px;
    padding: 8px 12px max(8px, env(safe-area-inset-bottom));
    background: var(--paper);
  }
`;
const Row = styled.form`
  display: flex;
  gap: 8px;
  align-items: end;
  & > div {
    flex: 1 1 0;
    min-width: 62px;
  }
  & > button {
    flex: none;
    min-height: 52px;
  }
  input {
    font-family: var(--mono);
    font-size: 1.35rem;
    font-weight: 600;
  }
  label {
    overflow: hidden;
    text-overflow: ellipsis;
    white-space: nowrap;
  }
  [data-next] input {
    border-color: var(--accent);
    box-shadow: inset 0 -3px 0 var(--accent);
  }
  @media ${HAND} {
    overflow-x: auto;
    input {
      font-size: 1.2rem;
      padding: 0.3em 0.45em;
    }
    label {
      font-size: 0.8rem;
      margin-bottom: 1px;
    }
  }
`;
const Events = styled.div`
  display: flex;
  flex-wrap: wrap;
  gap: 8px;
  align-items: end;
  & > button {
    flex: none;
    padding: 0.3em 0.7em;
    font-size: 0.92rem;
  }
  @media ${HAND} {
    flex-wrap: nowrap;
    overflow-x: auto;
    order: -1;
    & > button {
      white-space: nowrap;
    }
  }
`;
const Choices = styled.div`
  display: flex;
  flex-wrap: wrap;
  gap: 8px;
`;
const Touched = styled.div`
  display: none;
  @media ${TOUCHED} {
    display: block;
  }
`;
const List = styled.ul`
  display: grid;
  gap: 6px;
`;

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

/** What was logged here and has not reached the server; what it refused, with the reason. */
export function WaitingList({ test }: { test: Schemas["TestView"] }) {
  const waiting = useWaiting(test.id);
  if (!waiting.length) return null;
  return (
    <List aria-label="Waiting readings and events">
      {waiting.map((w) => (
        <li key={w.id}>
          <Note
            $kind={w.refused ? "wrong" : "calm"}
            role={w.refused ? "alert" : "status"}
          >
            {isReading(w)
              ? `${test.channels.find((c) => c.id === w.channel_id)?.name ?? ""} ${w.typed}`
              : w.kind.replaceAll("_", " ")}
            , {atSecond(w.at_ms ?? w.client_ms)}:{" "}
            {w.refused ?? "waiting to be stored"}{" "}
            {w.refused && <Quiet onPress={() => drop(w.id)}>Dismiss</Quiet>}
          </Note>
        </li>
      ))}
    </List>
  );
}

/** The place of the time in a draft, beside the ids of the channels. */
const TIME = "time";

type Told = Parameters<typeof keepEvent>[0];

/** What an event must say besides: which valve, or whether a tool was on the port. */
function Ask({
  kind,
  valves,
  tell,
  onCancel,
}: {
  kind: Schemas["EventKind"];
  valves: string[];
  tell: (more: Omit<Told, "test">) => void;
  onCancel: () => void;
}) {
  const isValve = kind === "valve_moved";
  const moved = (valve: string, is_open: boolean) =>
    tell({ kind, moved: { valve, is_open } });
  return (
    <Prompt aria-label={isValve ? "Which valve" : "Was a core tool on it"}>
      <strong>
        {isValve ? "Which valve, and how is it now?" : "Was a core tool on it?"}
      </strong>
      <Choices role="group">
        {isValve ? (
          [...valves, ""].flatMap((v) =>
            [true, false].map((is_open) => (
              <Button
                key={`${v} ${String(is_open)}`}
                onPress={() => moved(v, is_open)}
              >
                {v || "a valve of the rig"}: {is_open ? "open" : "shut"}
              </Button>
            )),
          )
        ) : (
          <>
            <Button onPress={() => tell({ kind, with_tool: true })}>
              Yes, it kept the port shut
            </Button>
            <Button onPress={() => tell({ kind, with_tool: false })}>
              No, the port was open
            </Button>
          </>
        )}
        <Button onPress={onCancel}>Cancel</Button>
      </Choices>
    </Prompt>
  );
}

type Channel = Schemas["ChannelView"];
interface Doubt {
  channel: Channel;
  /** What was asked about already, as it was answered. */
  sure: Draft;
}
interface Logged {
  ids: string[];
  text: string;
  at_ms: number;
}

/** Outside of what is expected after the last reading. */
const isFar = ({ near }: Channel, typed: string) =>
  near != null && (Number(typed) < near.low || Number(typed) > near.high);

/** "30? Last was 300": both as buttons. */
function Far({
  doubt,
  typed,
  take,
  onCancel,
}: {
  doubt: Doubt;
  typed: string;
  take: (typed: string) => void;
  onCancel: () => void;
}) {
  const { channel } = doubt;
  const n = Number(typed);
  // A digit too few or too many is the usual slip.
  const meant = [n * 10, n / 10, n * 100, n / 100]
    .map((x) => String(Number(x.toPrecision(6))))
    .find((x) => !isFar(channel, x));
  return (
    <Prompt role="alertdialog" aria-label="Far from the last reading">
      <strong>
        {channel.name}: {typed}? Last was {channel.last}.
      </strong>
      <Choices role="group">
        {meant && <Button onPress={() => take(meant)}>It is {meant}</Button>}
        <Button onPress={() => take(typed)}>Really {typed}</Button>
        <Button onPress={onCancel}>Type it again</Button>
      </Choices>
    </Prompt>
  );
}

/** What was logged just now, taken back with one tap. */
function Unlog({
  test,
  logged,
}: {
  test: Schemas["TestView"];
  logged: Logged;
}) {
  const { undo_ms } = useUnits().meta;
  const now = useNow();
  const waiting = useWaiting(test.id);
  const strike = useWrite(writes.strike);
  const left = undo_ms - (now - logged.at_ms);
  const [isUndone, setUndone] = useState(false);
  if (left <= 0 || isUndone) return null;
  const undo = () => {
    setUndone(true);
    for (const id of logged.ids)
      if (waiting.some((w) => w.id === id)) drop(id);
      else strike.mutate({ reading: id, reason: "undone at once" });
  };
  return (
    <Button onPress={undo}>
      Undo {logged.text} ({Math.max(1, Math.ceil(left / 1000))})
    </Button>
  );
}

/** The reading pad: all channels in one row, stamped by itself, Enter logs; events beside it. */
export function Pad({ test }: { test: Schemas["TestView"] }) {
  const [draft, setDraft] = useDraft(test.id);
  const [isLater, setLater] = useState(false);
  const [problem, setProblem] = useState<string | null>(null);
  const [note, setNote] = useState<string | null>(null);
  const [asked, setAsked] = useState<Schemas["EventKind"] | null>(null);
  const [focus, setFocus] = useState(0);
  const [doubt, setDoubt] = useState<Doubt | null>(null);
  const [logged, setLogged] = useState<Logged | null>(null);
  const isTouched = useIsTouched();
  const row = useRef<HTMLFormElement>(null);
  const events = useRef<HTMLDivElement>(null);
  const channels = test.channels;
  const places = [...channels.map((c) => c.id), ...(isLater ? [TIME] : [])];
  const inputs = () =>
    Array.from(row.current?.querySelectorAll<HTMLInputElement>("input") ?? []);
  useKey("r", () => inputs()[0]?.focus());
  useKey("e", () => events.current?.querySelector("button")?.focus());
  const log = (sure: Draft = {}) => {
    const filled = channels.filter((c) => (draft[c.id] ?? "").trim());
    const bad = filled.find((c) => looksWrong(draft[c.id] ?? ""));
    const at = isLater ? timeOf(draft[TIME] ?? "") : null;
    if (!filled.length) return setProblem("Nothing has been typed yet.");
    if (bad)
      return setProblem(
        `${bad.name}: “${draft[bad.id] ?? ""}” is not a number. Write it with a point, without thousands marks.`,
      );
    if (isLater && at === null)
      return setProblem("When was it read? Write the time as 14:05 or 1405.");
    setProblem(null);
    const typedOf = (c: Channel) =>
      (sure[c.id] ?? draft[c.id] ?? "").trim().replace("−", "-");
    // Far from the last one: asked, never changed by itself. One that was read earlier has no last one.
    const far = isLater
      ? undefined
      : filled.find((c) => !(c.id in sure) && isFar(c, typedOf(c)));
    if (far) return setDoubt({ channel: far, sure });
    setDoubt(null);
    const readings = filled.map((c) => ({
      id: freshId(),
      test: test.id,
      channel_id: c.id,
      typed: typedOf(c),
      at_ms: at,
      client_ms: nowHere(),
    }));
    keep(readings);
    setLogged({
      ids: readings.map((r) => r.id),
      text: readings.map((r) => r.typed).join(", "),
      at_ms: nowHere(),
    });
    setDraft({});
    setFocus(0);
    if (!isTouched) inputs()[0]?.focus();
  };
  const type = (place: string, text: string) =>
    setDraft({ ...draft, [place]: text });
  const tap = (key: string) => {
    const place = places[focus] ?? places[0];
    if (place === undefined) return;
    if (key === "next") return setFocus((focus + 1) % places.length);
    const now = draft[place] ?? "";
    type(place, key === "back" ? now.slice(0, -1) : now + key);
  };
  const tell = (more: Omit<Told, "test">) => {
    keepEvent({ test: test.id, note: "", ...more });
    setAsked(null);
  };
  const mark = (kind: Schemas["EventKind"], words = "") => {
    // Which valve, and whether a tool kept the port shut: only a person can say.
    if (kind === "core_moved" || (kind === "valve_moved" && test.valves.length))
      return setAsked(kind);
    if (kind === "other" && !words.trim())
      return setProblem("Say in a few words what happened.");
    setProblem(null);
    keepEvent({ test: test.id, kind, note: words.trim() });
    setNote(null);
  };
  const field = {
    // Ruhe has keys of its own; those of the device would cover the trace.
    inputMode: isTouched ? ("none" as const) : ("decimal" as const),
  };
  const isNext = (place: string) =>
    isTouched && places[focus] === place ? { "data-next": true } : {};
  return (
    <Box>
      <Row
        ref={row}
        aria-label="Reading pad"
        onSubmit={(e) => {
          e.preventDefault();
          log();
        }}
      >
        {channels.map((c, i) => (
          <div
            key={c.id}
            data-channel={c.name}
            {...isNext(c.id)}
            onFocus={() => setFocus(i)}
          >
            <Field
              {...field}
              label={`${c.name}, ${c.unit.replace("deg", "°")}`}
              value={draft[c.id] ?? ""}
              onChange={(v) => type(c.id, v)}
              placeholder={c.last ?? ""}
            />
          </div>
        ))}
        {isLater && (
          <div {...isNext(TIME)} onFocus={() => setFocus(channels.length)}>
            <Field
              {...field}
              label="Read at"
              value={draft[TIME] ?? ""}
              onChange={(v) => type(TIME, v)}
              placeholder="1405"
            />
          </div>
        )}
        {!isTouched && <Primary type="submit">Log</Primary>}
      </Row>
      <Touched>
        <Keypad
          onKey={tap}
          log={
            <Primary
              preventFocusOnPress
              style={{ gridArea: "log" }}
              onPress={() => log()}
            >
              Log
            </Primary>
          }
        />
      </Touched>
      {problem && (
        <Note $kind="wrong" role="alert">
          {problem}
        </Note>
      )}
      {doubt && (
        <Far
          doubt={doubt}
          typed={draft[doubt.channel.id] ?? ""}
          take={(typed) => log({ ...doubt.sure, [doubt.channel.id]: typed })}
          onCancel={() => setDoubt(null)}
        />
      )}
      {asked && (
        <Ask
          kind={asked}
          valves={test.valves}
          tell={tell}
          onCancel={() => setAsked(null)}
        />
      )}
      <Events ref={events} aria-label="Events" role="group">
        {logged && <Unlog key={logged.at_ms} test={test} logged={logged} />}
        <Button onPress={() => setLater(!isLater)} aria-pressed={isLater}>
          {isLater ? "It is now" : "Was earlier"}
        </Button>
        {test.marks.map((m) => (
          <Button key={m.kind} onPress={() => mark(m.kind)}>
            {m.title}
          </Button>
        ))}
        <PhotoButton
          circuit={test.circuit_id}
          text="Photo of the gauge"
          onMade={(photo_id) =>
            keepEvent({
              test: test.id,
              kind: "other",
              note: "photo of the gauge",
              photo_id,
            })
          }
        />
        {note === null ? (
          <Button onPress={() => setNote("")}>Other …</Button>
        ) : (
          <>
            <Field label="What happened" value={note} onChange={setNote} />
            <Button onPress={() => mark("other", note)}>Note it</Button>
          </>
        )}
      </Events>
    </Box>
  );
}
