import { useEffect } from "react";

/** Keeps the screen on while `wanted`, where the browser can; elsewhere nothing happens. */
export function useAwake(wanted: boolean) {
  useEffect(() => {
    // Missing without TLS, and in some browsers.
    const wake = navigator.wakeLock as WakeLock | undefined;
    if (!wanted || !wake) return;
    let lock: WakeLockSentinel | null = null;
    let isOver = false;
    const ask = () => {
      if (document.visibilityState !== "visible") return;
      wake.request("screen").then(
        (l) => {
          lock = l;
          if (isOver) void l.release();
        },
        () => undefined,
      );
    };
    ask();
    document.addEventListener("visibilitychange", ask);
    return () => {
      isOver = true;
      document.removeEventListener("visibilitychange", ask);
      void lock?.release();
    };
  }, [wanted]);
}
