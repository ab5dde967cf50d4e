import styled from "styled-components";
import type { Schemas } from "../../../api/client";
import { useHeard } from "../../../api/heard";
import { useNow } from "../../../look/now";
import { Button, HiddenText, Primary } from "../../../look/parts";
import { span } from "../../../units/units";

const Row = styled.div`
  display: flex;
  gap: 8px;
  align-items: stretch;
  & > button {
    flex: 1;
  }
  & > button:last-child {
    flex: 2;
  }
`;
const Sensors = styled.div`
  display: flex;
  min-width: 0;
  gap: 4px 18px;
  overflow-x: auto;
  button {
    display: grid;
    flex: 0 1 auto;
    min-width: 0;
    min-height: 48px;
    padding: 0 2px;
    border: 0;
    background: none;
    color: var(--ink);
    text-align: left;
    line-height: 1.15;
  }
  b {
    font-family: var(--mono);
    font-size: var(--t-lead);
    white-space: nowrap;
  }
  small {
    color: var(--soft);
    font-size: var(--t-tiny);
    overflow: hidden;
    text-overflow: ellipsis;
    white-space: nowrap;
  }
`;
const Says = styled.p`
  color: var(--soft);
  font-size: var(--t-small);
`;

/** Origins of what nobody typed. */
const BY_ITSELF = ["simulated", "gauge"];

/** A gauge sends readings by itself: how many there are and how old the last is. */
export function useListening(test: Schemas["TestView"]): string | null {
  const now = useNow();
  const heard = useHeard();
  const sent = test.readings.find((r) => BY_ITSELF.includes(r.origin));
  if (!test.is_live && !sent) return null;
  const times = test.channels.map((c) => heard[c.id]?.at_ms ?? 0);
  const last = Math.max(sent?.at_ms ?? 0, ...times);
  const age = last > 0 ? Math.max(0, (now - last) / 1000) : null;
  // One that fell silent is not waited for.
  if (!test.is_live && (age === null || age > 120)) return null;
  return age === null
    ? "gauge: listening"
    : `gauge: ${test.reading_count} readings, last ${span(age)} ago`;
}

/** The pad folded: what each sensor showed last, and the ways to log. */
export function LogBar({
  channels,
  says,
  onLog,
  onEarlier,
  onEvent,
}: {
  channels: Schemas["ChannelView"][];
  says: string | null;
  /** Unfolds the pad at this channel. */
  onLog: (channel: number) => void;
  onEarlier: () => void;
  onEvent: () => void;
}) {
  const heard = useHeard();
  const last = (c: Schemas["ChannelView"]) =>
    (heard[c.id]?.at_ms ?? 0) > (c.last_ms ?? 0) ? heard[c.id]?.typed : c.last;
  return (
    <>
      {says && <Says role="status">{says}</Says>}
      <Sensors>
        {channels.map((c, i) => (
          <button key={c.id} type="button" onClick={() => onLog(i)}>
            <small>{c.name}</small>
            <b>
              {last(c) ?? "–"} {c.unit.replace("deg", "°")}
            </b>
            <HiddenText>: log it</HiddenText>
          </button>
        ))}
      </Sensors>
      <Row role="group" aria-label="Log">
        <Button onPress={onEvent}>Event</Button>
        <Button onPress={onEarlier}>Earlier</Button>
        <Primary onPress={() => onLog(0)} aria-label="Log a reading">
          Log
        </Primary>
      </Row>
    </>
  );
}
