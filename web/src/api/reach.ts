import { useSyncExternalStore } from "react";
import { here } from "./room";

// Whether the server answers. The browser's own word (navigator.onLine) only knows of a network, not of what is on it.
let isReached = true;
const listeners = new Set<() => void>();

/** Notes whether the server answered. */
export function reached(yes: boolean) {
  if (yes === isReached) return;
  isReached = yes;
  for (const tell of listeners) tell();
}

export const isReachable = () => isReached;

export const onReach = (listener: () => void) => {
  listeners.add(listener);
  return () => void listeners.delete(listener);
};

export const useIsReachable = () => useSyncExternalStore(onReach, isReachable);

/** What says that something between here and the server does not work, not the server itself. */
export const isAway = (status: number) => [502, 503, 504].includes(status);

/** Asks the server whether it is there. */
export const probe = () =>
  fetch(here("/api/session")).then(
    (r) => reached(!isAway(r.status)),
    () => reached(false),
  );
