import styled from "styled-components";
import type { Schemas } from "../../api/client";
import { drop, isReading, useWaiting } from "../../api/outbox";
import { Note, Quiet } from "../../look/parts";
import { atSecond } from "../../units/units";

const List = styled.ul`
  display: grid;
  gap: 6px;
`;

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
