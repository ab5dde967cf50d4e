import { useQueryClient } from "@tanstack/react-query";
import { useEffect, type ReactNode } from "react";
import { useLocation } from "react-router";
import { sync } from "../pocket/sync";
import type { Schemas } from "./client";
import { probe, reached } from "./reach";
import { here } from "./room";

/** How long changes are gathered before asking again, ms: simulated gauges change a test every second. */
const GATHER = 400;

/** How often what changes is taken along, ms. */
const ALONG = 3_000;

/** Listens for changes and asks again for what they touch. On every (re)connection everything is asked for again. */
export function LiveProvider({ children }: { children: ReactNode }) {
  const cache = useQueryClient();
  // A page is told only of what it shows.
  const { pathname } = useLocation();
  const circuit = /^\/circuits\/([^/]+)/.exec(pathname)?.[1];
  useEffect(() => {
    const touched = new Set<string>();
    let timer: number | undefined;
    const changed = new Set<string>();
    let along: number | undefined;
    const ask = () => {
      timer = undefined;
      void cache.invalidateQueries({
        predicate: ({ queryKey: [kind, id] }) =>
          touched.has("all") ||
          kind === "today" ||
          (typeof id === "string" && touched.has(id)),
      });
      touched.clear();
    };
    const touch = (...ids: (string | null | undefined)[]) => {
      for (const id of ids) if (id) touched.add(id);
      timer ??= window.setTimeout(ask, GATHER);
    };
    let source: EventSource | undefined;
    const listen = () => {
      source?.close();
      source = new EventSource(
        here(circuit ? `/api/live?circuit=${circuit}` : "/api/live"),
      );
      source.addEventListener("open", () => {
        reached(true);
        sync("all");
        touch("all");
      });
      // It reconnects by itself; whether the server is there at all is asked at once.
      source.addEventListener("error", () => void probe());
      source.addEventListener("changed", (e: MessageEvent<string>) => {
        const change = JSON.parse(e.data) as Schemas["Changed"];
        touch(change.circuit_id, change.test_id);
        changed.add(change.circuit_id);
        along ??= window.setTimeout(() => {
          along = undefined;
          sync([...changed]);
          changed.clear();
        }, ALONG);
      });
      source.addEventListener("all", () => touch("all"));
    };
    // A page kept for the back button would keep its stream too, and a browser opens only six to one server.
    const leave = () => source?.close();
    listen();
    window.addEventListener("pagehide", leave);
    window.addEventListener("pageshow", listen);
    return () => {
      leave();
      window.removeEventListener("pagehide", leave);
      window.removeEventListener("pageshow", listen);
      window.clearTimeout(timer);
      window.clearTimeout(along);
    };
  }, [cache, circuit]);
  return children;
}
