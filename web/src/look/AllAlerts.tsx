import { useEffect, useRef } from "react";
import { useLocation } from "react-router";
import { tell, useChime } from "../api/alerts";
import { useToday } from "../api/queries";
import { useNow } from "./now";

/** Rings for every circuit in work, on every page, and names it. The one on screen rings for itself. */
export function AllAlerts() {
  const { data } = useToday();
  const now = useNow();
  const on = useChime();
  const { pathname } = useLocation();
  const told = useRef(new Set<string>());
  useEffect(() => {
    for (const r of data ?? []) {
      const at = r.clock?.kind === "due" ? r.clock.at_ms : null;
      const id = `${r.circuit_id} ${at ?? 0}`;
      if (at == null || now < at || told.current.has(id)) continue;
      told.current.add(id);
      // What was due long before the page was opened is on Today; it need not ring.
      const isHere = pathname.startsWith(`/circuits/${r.circuit_id}`);
      if (on && !isHere && now - at < 120_000)
        tell(`${r.system}, circuit ${r.tag}: ${r.clock?.label ?? ""} is due.`);
    }
  }, [data, now, on, pathname]);
  return null;
}
