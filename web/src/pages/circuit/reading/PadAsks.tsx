import { figure } from "../../../units/typed";
import { useState } from "react";
import styled from "styled-components";
import type { Schemas } from "../../../api/client";
import { drop, useWaiting, type keepEvent } from "../../../api/outbox";
import { useWrite, writes } from "../../../api/queries";
import { useNow } from "../../../look/now";
import { Button, Sheet } from "../../../look/parts";
import { useUnits } from "../../../units/units";

const Choices = styled.div`
  display: flex;
  flex-wrap: wrap;
  gap: 8px;
`;

/** What is typed, a channel each. */
export type Draft = Record<string, string>;

export type Told = Parameters<typeof keepEvent>[0];

/** What an event must say besides: which valve, or whether a tool was on the port. */
export function Ask({
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
    <Sheet aria-label={isValve ? "Which valve" : "Was a core tool on it"}>
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
    </Sheet>
  );
}

export type Channel = Schemas["ChannelView"];
export interface Doubt {
  channel: Channel;
  /** What was asked about already, as it was answered. */
  sure: Draft;
}
export interface Logged {
  ids: string[];
  text: string;
  at_ms: number;
}

/** Outside of what is expected after the last reading. */
export const isFar = ({ near }: Channel, typed: string) =>
  near != null && (figure(typed) < near.low || figure(typed) > near.high);

/** "30? Last was 300": both as buttons. */
export function Far({
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
  const n = figure(typed);
  // A digit too few or too many is the usual slip.
  const meant = [n * 10, n / 10, n * 100, n / 100]
    .map((x) => String(Number(x.toPrecision(6))))
    .find((x) => !isFar(channel, x));
  return (
    <Sheet role="alertdialog" aria-label="Far from the last reading">
      <strong>
        {channel.name}: {typed}? Last was {channel.last}.
      </strong>
      <Choices role="group">
        {meant && <Button onPress={() => take(meant)}>It is {meant}</Button>}
        <Button onPress={() => take(typed)}>Really {typed}</Button>
        <Button onPress={onCancel}>Type it again</Button>
      </Choices>
    </Sheet>
  );
}

/** What was logged just now, taken back with one tap. */
export function Unlog({
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
