import type { Schemas } from "../../api/client";

/** What an address shows of a circuit: the stage, and of its tests the one that is named or the last. */
export function shown(
  circuit: Schemas["CircuitView"] | undefined,
  search: URLSearchParams,
) {
  const stages = circuit?.stages ?? [];
  const stage =
    stages.find((s) => s.code === search.get("stage")) ??
    stages.find((s) => s.state === "now") ??
    stages.at(-1);
  const wanted = search.get("test");
  const row = stage?.tests.find((t) => t.id === wanted) ?? stage?.tests.at(-1);
  const isPlanning =
    wanted === "new" ||
    wanted === "new-leak-by" ||
    (stage?.plans != null && !row);
  return { stage, row, isPlanning };
}
