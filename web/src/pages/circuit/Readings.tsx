import { useState } from "react";
import styled from "styled-components";
import type { Schemas } from "../../api/client";
import { useWrite, writes } from "../../api/queries";
import { Button, Field, Mono, Note, Quiet } from "../../look/parts";
import { atSecond } from "../../units/units";
import { StrikeOut } from "./StrikeOut";
import { here } from "../../api/room";

const Box = styled.details`
  border-top: 1px solid var(--line);
  summary {
    cursor: pointer;
    min-height: 48px;
    padding: 12px 0;
    font-weight: 600;
  }
  li {
    display: flex;
    flex-wrap: wrap;
    gap: 4px 12px;
    align-items: center;
    border-top: 1px solid var(--line);
    min-height: 48px;
  }
  li > :last-child {
    margin-left: auto;
  }
  s {
    color: var(--soft);
  }
  small {
    color: var(--soft);
  }
`;
const Row = styled.div`
  display: flex;
  flex-wrap: wrap;
  gap: 8px;
  align-items: end;
  padding: 8px 0;
`;

const ORIGIN: Record<string, string> = {
  live: "",
  later: "entered afterwards",
  imported: "imported",
  simulated: "simulated gauge",
  gauge: "sent by the gauge",
  corrected: "correction",
};

function ReadingItem({
  reading,
  channel,
  canStrike,
}: {
  reading: Schemas["ReadingView"];
  channel: Schemas["ChannelView"] | undefined;
  canStrike: boolean;
}) {
  const [isOpen, setOpen] = useState(false);
  const [reason, setReason] = useState("");
  const [instead, setInstead] = useState("");
  const strike = useWrite(writes.strike);
  const value = (
    <Mono>
      {reading.typed} {channel?.unit.replace("deg", "°")}
    </Mono>
  );
  return (
    <li>
      <Mono>{atSecond(reading.at_ms)}</Mono>
      <span>{channel?.name}</span>
      {reading.struck ? <s>{value}</s> : value}
      <small>
        {[
          ORIGIN[reading.origin],
          reading.skewed && "clocks differed by over 5 s",
          reading.struck && `struck out: ${reading.struck}`,
        ]
          .filter(Boolean)
          .join(", ")}
      </small>
      {canStrike && !reading.struck && !isOpen && (
        <Quiet
          onPress={() => setOpen(true)}
          aria-label={`Strike out ${reading.typed}`}
        >
          Strike out
        </Quiet>
      )}
      {isOpen && !reading.struck && (
        <Row>
          <Field
            label="Why"
            value={reason}
            onChange={setReason}
            placeholder="misread, wrong field"
          />
          <Field
            label="Should be (if known)"
            value={instead}
            onChange={setInstead}
            inputMode="decimal"
          />
          <Button
            onPress={() =>
              strike.mutate(
                { reading: reading.id, reason, instead: instead || null },
                { onSuccess: () => setOpen(false) },
              )
            }
          >
            Strike out
          </Button>
          {strike.error && (
            <Note $kind="wrong" role="alert">
              {strike.error.message}
            </Note>
          )}
        </Row>
      )}
    </li>
  );
}

/** What was logged last and what was marked; a wrong entry is struck out, never deleted. */
export function Readings({ test }: { test: Schemas["TestView"] }) {
  if (test.reading_count === 0 && test.events.length === 0) return null;
  return (
    <Box>
      <summary>
        Readings and events ({test.reading_count} and {test.events.length})
      </summary>
      <ul>
        {test.events.map((e) => (
          <li key={e.id}>
            <Mono>{atSecond(e.at_ms)}</Mono>
            <strong>{e.kind.replaceAll("_", " ")}</strong>
            <span>
              {e.photo_id ? (
                <a
                  href={here(`/api/photos/${e.photo_id}`)}
                  target="_blank"
                  rel="noreferrer"
                >
                  {e.note}
                </a>
              ) : (
                e.note
              )}
            </span>
            {!test.is_signed && (
              <StrikeOut
                circuit={test.circuit_id}
                entry={e.id}
                what={e.kind.replaceAll("_", " ")}
              />
            )}
          </li>
        ))}
        {test.readings.map((r) => (
          <ReadingItem
            key={r.id}
            reading={r}
            channel={test.channels.find((c) => c.id === r.channel_id)}
            canStrike={!test.is_signed}
          />
        ))}
      </ul>
      {test.reading_count > test.readings.length && (
        <p>
          The last {test.readings.length} are shown; the data package holds all
          of them.
        </p>
      )}
    </Box>
  );
}
