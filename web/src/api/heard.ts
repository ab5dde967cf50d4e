import { useSyncExternalStore } from "react";

/** What a gauge sent last for a channel. */
export interface Heard {
  typed: string;
  at_ms: number;
}

/** What the gauges sent last, by channel. It lies beside what is asked for, so that a figure a second draws one figure
 * anew and not a page. */
let all: Readonly<Record<string, Heard>> = {};
const listeners = new Set<() => void>();

/** Takes what was sent. */
export function hear(sent: ({ channel_id: string } & Heard)[]) {
  if (!sent.length) return;
  const by = sent.map((h) => [h.channel_id, h] as const);
  all = { ...all, ...Object.fromEntries(by) };
  for (const tell of listeners) tell();
}

/** What each channel was sent last. */
export const useHeard = () =>
  useSyncExternalStore(
    (tell) => {
      listeners.add(tell);
      return () => listeners.delete(tell);
    },
    () => all,
  );
