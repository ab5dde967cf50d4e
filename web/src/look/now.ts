import { useEffect, useState } from "react";
import { now as nowHere } from "../api/clock";

/** The present second, for clocks. */
export function useNow(every = 1000): number {
  const [now, setNow] = useState(nowHere);
  useEffect(() => {
    const timer = window.setInterval(() => setNow(nowHere()), every);
    return () => window.clearInterval(timer);
  }, [every]);
  return now;
}
