import type { QueryClient } from "@tanstack/react-query";
import {
  circuitQuery,
  sentencesIn,
  testQuery,
  todayQuery,
} from "./api/queries";
import { room } from "./api/room";
import { sessionQuery } from "./api/session";
import { shown } from "./pages/circuit/shown";
import { metaQuery, remembered } from "./units/units";

/** Asks at once for what the page will show, while it is still being put together: each question alone is a way there
 * and back, on a slow network the longest part of a start. What fails here is asked again where it is shown. */
export async function askEarly(cache: QueryClient) {
  void cache.prefetchQuery(metaQuery);
  const path = location.pathname.slice(room.length);
  const id = /^\/circuits\/([^/]+)/.exec(path)?.[1];
  if (id) void import("./pages/circuit/Circuit");
  const session = await cache.fetchQuery(sessionQuery);
  if (session.must_sign_in) return;
  const units = sentencesIn(remembered());
  if (path === "/") await cache.prefetchQuery(todayQuery(units));
  if (!id) return;
  const circuit = await cache.fetchQuery(circuitQuery(id, units));
  const { row, isPlanning } = shown(
    circuit,
    new URLSearchParams(location.search),
  );
  if (row && !isPlanning) await cache.prefetchQuery(testQuery(row.id, units));
}
