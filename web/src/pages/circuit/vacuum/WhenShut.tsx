import { useState } from "react";
import styled from "styled-components";
import type { Schemas } from "../../../api/client";
import { Button, Field, Note, Primary, Sheet } from "../../../look/parts";
import { atClock, timeOf } from "../../../units/units";

/** So many moments are offered to choose from. */
const FEW = 5;

const Moments = styled.div`
  display: flex;
  flex-wrap: wrap;
  gap: 8px;
`;

/** What the gauges showed, a moment a line: the first one and the latest ones. */
function moments(test: Schemas["TestView"]): [number, string][] {
  const gauges = test.channels.filter((c) => c.quantity !== "temperature");
  const at = new Map<number, string>();
  for (const r of test.readings) {
    const of = gauges.find((c) => c.id === r.channel_id);
    if (of && !r.struck && !at.has(r.at_ms))
      at.set(r.at_ms, `${r.typed} ${of.unit.replace("deg", "°")}`);
  }
  if (test.reading_count > 0 && !at.has(test.start_ms))
    at.set(test.start_ms, "first reading");
  const all = [...at].sort((a, b) => a[0] - b[0]);
  return all.length <= FEW ? all : [...all.slice(0, 1), ...all.slice(1 - FEW)];
}

/** Asks when a valve was shut that is shut already: one of the readings, or a time. */
export function WhenShut({
  test,
  ask,
  onSaid,
  onCancel,
}: {
  test: Schemas["TestView"];
  ask: string;
  onSaid: (at_ms: number) => void;
  onCancel: () => void;
}) {
  const [typed, setTyped] = useState("");
  const [problem, setProblem] = useState<string | null>(null);
  const say = () => {
    const at = timeOf(typed);
    if (at === null) setProblem("Write the time as 14:05 or 1405.");
    else onSaid(at);
  };
  const read = moments(test);
  return (
    <Sheet role="group" aria-label={ask}>
      <strong>{ask}</strong>
      {read.length > 0 && (
        <Moments role="group" aria-label="At a reading">
          {read.map(([at, words]) => (
            <Button key={at} onPress={() => onSaid(at)}>
              {atClock(at)}: {words}
            </Button>
          ))}
        </Moments>
      )}
      <Field
        label="At"
        value={typed}
        onChange={setTyped}
        placeholder="14:05"
        inputMode="decimal"
      />
      {problem && (
        <Note $kind="wrong" role="alert">
          {problem}
        </Note>
      )}
      <Moments>
        <Primary onPress={say}>Shut at that time</Primary>
        <Button onPress={onCancel}>Leave it</Button>
      </Moments>
    </Sheet>
  );
}

/** Readings at the pressure of the hold that came before the word that its supply is shut: they can be taken in. */
export function BeforeShut({
  test,
  onSaid,
}: {
  test: Schemas["TestView"];
  onSaid: (at_ms: number) => void;
}) {
  const before = test.before_shut;
  if (!before) return null;
  return (
    <Note role="status">
      {before.count} readings at this pressure came before the supply was said
      to be shut, and do not count.{" "}
      <Button onPress={() => onSaid(before.from_ms)}>
        It was shut by {atClock(before.from_ms)}: use them
      </Button>
    </Note>
  );
}
