import { useSyncExternalStore } from "react";

/** A screen held in one hand: upright and narrow, or lying and low. */
export const HAND =
  "(max-width: 760px), (max-height: 500px) and (orientation: landscape)";
/** The same lying: there is width for the pad beside the trace, and no height below it. */
export const LYING = "(max-height: 500px) and (orientation: landscape)";
/** A screen that is touched has Ruhe's own keys. */
export const TOUCHED = `${HAND}, (pointer: coarse)`;

/** Whether a media query holds, now and later. */
function useMedia(query: string): boolean {
  return useSyncExternalStore(
    (tell) => {
      const media = window.matchMedia(query);
      media.addEventListener("change", tell);
      return () => media.removeEventListener("change", tell);
    },
    () => window.matchMedia(query).matches,
  );
}

export const useInHand = () => useMedia(HAND);
export const useIsTouched = () => useMedia(TOUCHED);
export const useIsLying = () => useMedia(LYING);
