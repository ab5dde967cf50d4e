import { useQueryClient, type QueryClient } from "@tanstack/react-query";
import { useEffect, type ReactNode } from "react";
import { useLocation } from "react-router";
import { sync } from "../pocket/sync";
import type { Schemas } from "./client";
import { hear } from "./heard";
import { probe, reached } from "./reach";
import { here } from "./room";

/** How long is waited before asking again, ms: what a person did is asked for at once; what a gauge sent moves the
 * figures
 * by itself, and is judged anew now and then. */
const WAIT = {
  act: 400,
  first: 1_500,
  gauge: 12_000,
  index: 10_000,
  slow: 120_000,
};

/** A test with fewer readings is looked at as they come. */
const YOUNG = 40;

/** Whether a test that is shown has only just begun to be read. */
const isYoung = (cache: QueryClient, test: string | null | undefined) =>
  cache
    .getQueriesData<Schemas["TestView"]>({ queryKey: ["test", test] })
    .some(([, view]) => view && view.reading_count < YOUNG);

/** How often what changes is taken along, ms. */
const ALONG = 15_000;

/** Gathers what was touched and asks for it again once for all. */
function gatherer(cache: QueryClient, wait: number) {
  const touched = new Set<string>();
  let timer: number | undefined;
  const ask = () => {
    timer = undefined;
    const now = new Set(touched);
    touched.clear();
    void cache.invalidateQueries({
      predicate: ({ queryKey: [kind, id] }) =>
        now.has("all") ||
        (typeof kind === "string" && now.has(kind)) ||
        (typeof id === "string" && now.has(id)),
    });
  };
  return {
    touch: (...ids: (string | null | undefined)[]) => {
      for (const id of ids) if (id) touched.add(id);
      timer ??= window.setTimeout(ask, wait);
    },
    stop: () => window.clearTimeout(timer),
  };
}

/** Listens for changes and asks again for what they touch. On every (re)connection everything is asked for again. */
export function LiveProvider({ children }: { children: ReactNode }) {
  const cache = useQueryClient();
  // A page is told only of what it shows.
  const { pathname } = useLocation();
  const circuit = /^\/circuits\/([^/]+)/.exec(pathname)?.[1];
  useEffect(() => {
    const soon = gatherer(cache, WAIT.act);
    const first = gatherer(cache, WAIT.first);
    const judged = gatherer(cache, WAIT.gauge);
    const listed = gatherer(cache, circuit ? WAIT.slow : WAIT.index);
    const slow = gatherer(cache, WAIT.slow);
    const changed = new Set<string>();
    let along: number | undefined;
    const takeAlong = (id: string) => {
      changed.add(id);
      along ??= window.setTimeout(() => {
        along = undefined;
        sync([...changed]);
        changed.clear();
      }, ALONG);
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
        soon.touch("all");
      });
      // It reconnects by itself; whether the server is there at all is asked at once.
      source.addEventListener("error", () => void probe());
      source.addEventListener("changed", (e: MessageEvent<string>) => {
        const change = JSON.parse(e.data) as Schemas["Changed"];
        takeAlong(change.circuit_id);
        if (change.by === "gauge") {
          hear(change.heard);
          const is = isYoung(cache, change.test_id) ? first : judged;
          is.touch(change.test_id);
          slow.touch(change.circuit_id);
        } else if (change.by === "index") listed.touch("today");
        else soon.touch("today", change.circuit_id, change.test_id);
      });
      source.addEventListener("all", () => soon.touch("all"));
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
      for (const g of [soon, first, judged, listed, slow]) g.stop();
      window.clearTimeout(along);
    };
  }, [cache, circuit]);
  return children;
}
