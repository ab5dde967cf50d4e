import { useSyncExternalStore } from "react";

/** Which procedures one begins with and which one never uses, on this device. */
export interface Preferred {
  /** By kind of test: the code of the one a plan begins with. */
  first: Partial<Record<string, string>>;
  /** Codes of those that are not offered. */
  hidden: string[];
}

const KEY = "ruhe.procedures";
const NOTHING: Preferred = { first: {}, hidden: [] };
const listeners = new Set<() => void>();

function read(): Preferred {
  try {
    const kept = JSON.parse(
      localStorage.getItem(KEY) ?? "{}",
    ) as Partial<Preferred>;
    return { ...NOTHING, ...kept };
  } catch {
    return NOTHING;
  }
}

let now = read();

/** What is preferred here. */
export const preferred = () => now;

/** The same, and the way to change it. */
export function usePreferred(): [Preferred, (next: Preferred) => void] {
  const value = useSyncExternalStore((tell) => {
    listeners.add(tell);
    return () => listeners.delete(tell);
  }, preferred);
  const set = (next: Preferred) => {
    now = next;
    localStorage.setItem(KEY, JSON.stringify(next));
    for (const tell of listeners) tell();
  };
  return [value, set];
}
