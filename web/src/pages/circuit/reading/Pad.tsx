import { isWrong, noNumber } from "../../../units/typed";
import { ChevronDown } from "lucide-react";
import { memo, useRef, useState } from "react";
import { useSearchParams } from "react-router";
import styled from "styled-components";
import { freshId, type Schemas } from "../../../api/client";
import { now as nowHere } from "../../../api/clock";
import { keep, keepEvent } from "../../../api/outbox";
import { useKey } from "../../../look/keys";
import { Button, Field, Note, Primary } from "../../../look/parts";
import { PhotoButton } from "../../../look/PhotoButton";
import {
  HAND,
  TOUCHED,
  useInHand,
  useIsLying,
  useIsTouched,
} from "../../../look/screen";
import { useSteady } from "../../../look/steady";
import { timeOf } from "../../../units/units";
import { Keypad } from "./Keypad";
import { LogBar, useListening } from "./LogBar";
import {
  Ask,
  Far,
  isFar,
  Unlog,
  type Channel,
  type Doubt,
  type Draft,
  type Logged,
  type Told,
} from "./PadAsks";

const Box = styled.div`
  display: grid;
  grid-template-columns: minmax(0, 1fr);
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
    font-size: var(--t-head);
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
      font-size: var(--t-large);
      padding: 0.3em 0.45em;
    }
    label {
      font-size: var(--t-tiny);
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
    font-size: var(--t-note);
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
const Touched = styled.div`
  display: none;
  @media ${TOUCHED} {
    display: block;
  }
`;
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

/** The place of the time in a draft, beside the ids of the channels. */
const TIME = "time";

/** How much of the pad is shown. */
type Mode = "folded" | "pad" | "events";

/** In the hand the pad is a bar that unfolds; it stands open where nothing was read yet or one comes to log, and folds
 * when a gauge begins to send. Elsewhere it is one row, and always there. */
function useMode(test: Schemas["TestView"]): [Mode, (mode: Mode) => void] {
  const [search] = useSearchParams();
  const [isInHand, isLying] = [useInHand(), useIsLying()];
  const isListening = test.is_live;
  const [mode, setMode] = useState<Mode>(
    !isListening && (test.reading_count === 0 || search.has("log"))
      ? "pad"
      : "folded",
  );
  const [was, setWas] = useState(isListening);
  if (was !== isListening) {
    setWas(isListening);
    if (isListening) setMode("folded");
  }
  // Lying there is room for it beside the trace.
  return [isInHand && !isLying ? mode : "pad", setMode];
}

/** What happened, a button each; a digit changes none of them. */
const Marks = memo(
  ({
    of,
    onMark,
    circuit,
    onPhoto,
  }: {
    of: Schemas["TestView"]["marks"];
    onMark: (kind: Schemas["EventKind"]) => void;
    circuit: string;
    onPhoto: (id: string) => void;
  }) => (
    <>
      {of.map((m) => (
        <Button key={m.kind} onPress={() => onMark(m.kind)}>
          {m.title}
        </Button>
      ))}
      <PhotoButton
        circuit={circuit}
        text="Photo of the gauge"
        onMade={onPhoto}
      />
    </>
  ),
);

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
  const [mode, setMode] = useMode(test);
  const isTouched = useIsTouched();
  const row = useRef<HTMLFormElement>(null);
  const events = useRef<HTMLDivElement>(null);
  const listening = useListening(test);
  const [isInHand, isLying] = [useInHand(), useIsLying()];
  const isFolding = isInHand && !isLying;
  const channels = test.channels;
  // Written down earlier: the time first, then what was read.
  const places = [...(isLater ? [TIME] : []), ...channels.map((c) => c.id)];
  const inputs = () =>
    Array.from(row.current?.querySelectorAll<HTMLInputElement>("input") ?? []);
  useKey("r", () => inputs()[0]?.focus());
  useKey("e", () => events.current?.querySelector("button")?.focus());
  const log = (sure: Draft = {}) => {
    const filled = channels.filter((c) => (draft[c.id] ?? "").trim());
    const bad = filled.find((c) => isWrong(draft[c.id] ?? ""));
    const at = isLater ? timeOf(draft[TIME] ?? "") : null;
    if (!filled.length) return setProblem("Nothing has been typed yet.");
    if (bad) return setProblem(`${bad.name}: ${noNumber(draft[bad.id] ?? "")}`);
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
    // One that is read now is shown in the bar; a list from paper goes on.
    if (!isLater) setMode("folded");
    if (!isTouched) inputs()[0]?.focus();
  };
  const type = (place: string, text: string) =>
    setDraft({ ...draft, [place]: text });
  const tap = (key: string) => {
    const place = places[focus] ?? places[0];
    if (place === undefined) return;
    if (key === "next") return setFocus((focus + 1) % places.length);
    const now = draft[place] ?? "";
    const then = key === "back" ? now.slice(0, -1) : now + key;
    type(place, then);
    // A time is whole with its fourth digit.
    if (place === TIME && /^\d{4}$/.test(then)) setFocus(1);
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
  const onMark = useSteady((kind: Schemas["EventKind"]) => mark(kind));
  const onPhoto = useSteady((photo_id: string) =>
    keepEvent({
      test: test.id,
      kind: "other",
      note: "photo of the gauge",
      photo_id,
    }),
  );
  const field = {
    // Ruhe has keys of its own; those of the device would cover the trace.
    inputMode: isTouched ? ("none" as const) : ("decimal" as const),
  };
  const isNext = (place: string) =>
    isTouched && places[focus] === place ? { "data-next": true } : {};
  const earlier = (is: boolean) => {
    setLater(is);
    setFocus(0);
  };
  const undo = logged && (
    <Unlog key={logged.at_ms} test={test} logged={logged} />
  );
  if (mode === "folded")
    return (
      <Box>
        {undo && <Events>{undo}</Events>}
        <LogBar
          channels={channels}
          says={listening}
          onLog={(i) => {
            earlier(false);
            setFocus(i);
            setMode("pad");
          }}
          onEarlier={() => {
            earlier(true);
            setMode("pad");
          }}
          onEvent={() => setMode("events")}
        />
      </Box>
    );
  const isPad = mode !== "events";
  return (
    <Box>
      {isPad && (
        <Row
          ref={row}
          aria-label="Reading pad"
          onSubmit={(e) => {
            e.preventDefault();
            log();
          }}
        >
          {isLater && (
            <div {...isNext(TIME)} onFocus={() => setFocus(0)}>
              <Field
                {...field}
                label="Read at"
                value={draft[TIME] ?? ""}
                onChange={(v) => type(TIME, v)}
                placeholder="1405"
              />
            </div>
          )}
          {channels.map((c) => (
            <div
              key={c.id}
              data-channel={c.name}
              {...isNext(c.id)}
              onFocus={() => setFocus(places.indexOf(c.id))}
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
          {!isTouched && <Primary type="submit">Log</Primary>}
        </Row>
      )}
      {isPad && (
        <Touched>
          <Keypad
            onKey={tap}
            log={
              <Primary preventFocusOnPress onPress={() => log()}>
                Log
              </Primary>
            }
          />
        </Touched>
      )}
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
        {isFolding && (
          <Button
            onPress={() => setMode("folded")}
            aria-label={isPad ? "Fold the pad" : "Fold the events"}
          >
            <ChevronDown size={20} aria-hidden />
          </Button>
        )}
        {undo}
        {isPad && (
          <Button onPress={() => earlier(!isLater)} aria-pressed={isLater}>
            {isLater ? "It is now" : "Was earlier"}
          </Button>
        )}
        <Marks
          of={test.marks}
          onMark={onMark}
          circuit={test.circuit_id}
          onPhoto={onPhoto}
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
