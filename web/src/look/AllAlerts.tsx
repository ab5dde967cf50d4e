import { useEffect, useRef } from "react";
import { useLocation } from "react-router";
import { tell, useChime } from "../api/alerts";
import { useToday } from "../api/queries";
import type { Schemas } from "../api/client";
import { span } from "../units/units";
import { useNow } from "./now";
import { useTitleNow } from "./title";

/** What was due long before the page was opened is on Today; it need not ring, ms. */
const LATE = 120_000;
/** What is due further off than this is not running, but a date, ms. */
const SOON = 2 * 86_400_000;

/** The circuits with a clock that runs out, soonest first. */
export function useDue(): Schemas["TodayRow"][] {
  const { data } = useToday();
  const now = useNow(30_000);
  return (data ?? []).filter(
    (r) => r.clock?.kind === "due" && r.clock.at_ms - now < SOON,
  );
}

/** Rings for every circuit in work, on every page, and names it; the title and the app's badge say so too. The one
 * on screen rings for itself. */
export function AllAlerts() {
  const rows = useDue();
  const now = useNow();
  const on = useChime();
  const { pathname } = useLocation();
  const told = useRef(new Set<string>());
  useEffect(() => {
    for (const r of rows) {
      const at = r.clock?.at_ms ?? 0;
      const id = `${r.circuit_id} ${at}`;
      if (now < at || told.current.has(id)) continue;
      told.current.add(id);
      const isHere = pathname.startsWith(`/circuits/${r.circuit_id}`);
      if (on && !isHere && now - at < LATE)
        tell(`${r.system}, circuit ${r.tag}: ${r.clock?.label ?? ""} is due.`);
    }
  }, [rows, now, on, pathname]);
  const due = rows.filter((r) => (r.clock?.at_ms ?? 0) <= now).length;
  const next = rows.find((r) => (r.clock?.at_ms ?? 0) > now);
  const left = next?.clock && span((next.clock.at_ms - now) / 1000);
  const words = due > 0 ? `(${due}) due` : left && `${next.tag} ${left}`;
  const where = useTitleNow();
  const title = [words, where, "Ruhe"].filter(Boolean).join(" · ");
  useEffect(() => {
    document.title = title;
  }, [title]);
  useEffect(() => {
    // Only of an installed page, and only where there is one.
    const app = navigator as Partial<Pick<Navigator, "setAppBadge">>;
    app.setAppBadge?.(due).catch(() => undefined);
  }, [due]);
  return null;
}
