import { useCircuit, useFound } from "../../../api/queries";
import type { Schemas } from "../../../api/client";
import type { Circuit } from "../parts";
import { Compared } from "./sets";

/** One other circuit of the system: its last set, beside this one's. */
function Twin({
  own,
  tag,
  other,
}: {
  own: Schemas["SetView"];
  tag: string;
  other: string;
}) {
  const { data } = useCircuit(other);
  const last = data?.this_visit.start.sets.at(-1);
  if (!data || !last) return null;
  return (
    <Compared
      title={`Circuit ${tag} beside circuit ${data.tag}`}
      heads={[`Circuit ${tag}`, `Circuit ${data.tag}`]}
      sets={[own, last]}
    />
  );
}

/** Twin circuits side by side: what differs between them is seldom the weather. */
export function Twins({ circuit }: { circuit: Circuit }) {
  const own = circuit.this_visit.start.sets.at(-1);
  const { data } = useFound(
    own
      ? {
          q: `${circuit.site} ${circuit.system}`,
          state: "",
          from_ms: null,
          to_ms: null,
        }
      : null,
  );
  if (!own) return null;
  return (data ?? [])
    .filter(
      (r) =>
        r.system === circuit.system &&
        r.site === circuit.site &&
        r.circuit_id !== circuit.id,
    )
    .map((r) => (
      <Twin
        key={r.circuit_id}
        own={own}
        tag={circuit.tag}
        other={r.circuit_id}
      />
    ));
}
