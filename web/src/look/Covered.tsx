import { useSyncExternalStore, type ReactNode } from "react";
import styled from "styled-components";
import type { Schemas } from "../api/client";
import { now } from "../api/clock";
import { useDrill, useLookAtWords } from "../api/drills";
import { Button } from "./parts";

/** So long a look lasts, by the clock of the drill, ms. */
const LOOK = 60_000;

const Cover = styled.aside`
  grid-area: says;
  border: 2px dashed var(--edge);
  border-radius: 8px;
  padding: 14px;
  display: grid;
  gap: 10px;
  justify-items: start;
  align-content: start;
`;

// One for the page: a look uncovers all of it.
let lookedMs = -Infinity;
const listeners = new Set<() => void>();
const subscribe = (listener: () => void) => {
  listeners.add(listener);
  const timer = window.setInterval(listener, 1_000);
  return () => {
    listeners.delete(listener);
    window.clearInterval(timer);
  };
};
const isLooking = () => now() - lookedMs < LOOK;

/** Whether what Ruhe says is covered: in a drill on gauges only, until somebody looks. */
export function useIsCovered(): boolean {
  const drill = useDrill();
  const isOpen = useSyncExternalStore(subscribe, isLooking);
  return drill !== null && !drill.is_over && drill.level !== "words" && !isOpen;
}

/** What Ruhe says, or a cover that can be lifted for a minute. */
export function Covered({
  children,
  besides,
}: {
  children: ReactNode;
  /** What stays in sight under the cover. */
  besides?: ReactNode;
}) {
  const isCovered = useIsCovered();
  const look = useLookAtWords();
  if (!isCovered) return children;
  return (
    <Cover aria-label="Ruhe’s words are covered">
      <p>
        <strong>Gauges only.</strong> What Ruhe makes of them is covered.
      </p>
      <Button
        onPress={() =>
          look.mutate(undefined, {
            onSuccess: () => {
              lookedMs = now();
              for (const tell of listeners) tell();
            },
          })
        }
      >
        Look for a minute: 2 points
      </Button>
      {besides}
    </Cover>
  );
}

/** What a gauge alone would draw of a test: nothing that Ruhe made of it. */
export const bare = (verdict: Schemas["Verdict"]): Schemas["Verdict"] => ({
  ...verdict,
  word: "Covered",
  shape: "none",
  headline: "gauges only",
  hold: null,
  decay: verdict.decay ? { ...verdict.decay, explanations: [] } : null,
  rig: null,
  pull: null,
  leak_by: verdict.leak_by ?? null,
  trace: verdict.trace.map((p) => ({ ...p, corrected: null, ribbon: null })),
});
