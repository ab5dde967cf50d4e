import { useCallback, useLayoutEffect, useRef } from "react";

/** The same function at every drawing, which does what the newest one does: what only takes it need not be drawn
 * anew. */
export function useSteady<A extends unknown[]>(act: (...args: A) => void) {
  const newest = useRef(act);
  useLayoutEffect(() => {
    newest.current = act;
  });
  return useCallback((...args: A) => newest.current(...args), []);
}
