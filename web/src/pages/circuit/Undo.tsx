import { useState } from "react";
import styled from "styled-components";
import type { Schemas } from "../../api/client";
import { drop, useWaiting } from "../../api/outbox";
import { useWrite, writes } from "../../api/queries";
import { useNow } from "../../look/now";
import { Button, Prompt } from "../../look/parts";
import { useUnits } from "../../units/units";
import { now as nowHere } from "../../api/clock";

/** The clocks of page and server may differ by so much, ms. */
const APART = 2_000;

const Box = styled(Prompt)`
  display: flex;
  flex-wrap: wrap;
  gap: 10px;
  align-items: center;
  justify-content: space-between;
`;

interface Tap {
  id: string;
  text: string;
  at_ms: number;
  isWaiting: boolean;
}

/** The last tap that decides, while it can be undone. */
function useTap(
  test: Schemas["TestView"],
  { undo_ms, deciding }: Schemas["Meta"],
): Tap | undefined {
  const waiting = useWaiting(test.id);
  const now = useNow();
  // What was said before this page was opened is struck out with a reason instead.
  const [opened] = useState(() => nowHere());
  const titleOf = (kind: string) =>
    deciding.find((d) => d.code === kind)?.title;
  const taps: Tap[] = [
    ...waiting.flatMap((w) =>
      "kind" in w && titleOf(w.kind)
        ? [
            {
              id: w.id,
              text: w.kind,
              at_ms: w.client_ms,
              isWaiting: true,
            },
          ]
        : [],
    ),
    ...test.events
      .filter((e) => titleOf(e.kind))
      .map((e) => ({
        id: e.id,
        text: e.kind,
        at_ms: e.at_ms,
        isWaiting: false,
      })),
  ].map((t) => ({
    ...t,
    text: titleOf(t.text) ?? t.text,
  }));
  if (test.end_id != null && test.ended_ms != null)
    taps.push({
      id: test.end_id,
      text: `${test.title} ended`,
      at_ms: test.ended_ms,
      isWaiting: false,
    });
  return taps
    .filter((t) => t.at_ms >= opened - APART && now - t.at_ms < undo_ms)
    .sort((a, b) => b.at_ms - a.at_ms)[0];
}

/** A tap that decides (supply shut, isolated, end) can be undone for ten seconds; later it is struck out with a
 * reason. */
export function Undo({ test }: { test: Schemas["TestView"] }) {
  const { meta } = useUnits();
  const tap = useTap(test, meta);
  const now = useNow();
  const strike = useWrite(writes.void(test.circuit_id));
  if (!tap || test.is_signed) return null;
  const undo = () => {
    if (tap.isWaiting) drop(tap.id);
    else strike.mutate({ entry: tap.id, reason: "undone at once" });
  };
  return (
    <Box role="status" aria-label="Undo">
      <b>{tap.text}</b>
      <Button isDisabled={strike.isPending} onPress={undo}>
        Undo (
        {Math.max(1, Math.ceil((meta.undo_ms - (now - tap.at_ms)) / 1000))})
      </Button>
    </Box>
  );
}
