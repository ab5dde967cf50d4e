import { useState } from "react";
import { useNavigate } from "react-router";
import type { Schemas } from "../../../api/client";
import { now as nowHere } from "../../../api/clock";
import { keepEvent } from "../../../api/outbox";
import { useCircuit, useWrite, writes } from "../../../api/queries";
import { Button, Primary, Trouble } from "../../../look/parts";
import { useUnits } from "../../../units/units";
import { schoolsOf } from "../plan";

/** The valve is shut: the evacuation ends and the decay begins with the same gauge and the rule of one's own. */
export function DecayNow({
  test,
  isReached,
}: {
  test: Schemas["TestView"];
  isReached: boolean;
}) {
  const units = useUnits();
  const { data: circuit } = useCircuit(test.circuit_id);
  const plan = useWrite(
    writes.test(test.circuit_id, { pressure: units.chosen.pressure }),
  );
  const end = useWrite(writes.end(test.id));
  const [isBusy, setBusy] = useState(false);
  const go = useNavigate();
  const { first: rule } = schoolsOf(units.meta, "vacuum-decay");
  if (!circuit?.stages.some((s) => s.code === "decay") || !rule) return null;
  const begin = async () => {
    const at_ms = nowHere();
    setBusy(true);
    try {
      const made = await plan.mutateAsync({
        kind: "vacuum-decay",
        plan: {
          school: rule.code,
          kit: test.plan.kit ?? [],
          section: test.plan.section ?? null,
          auto_off_s: test.plan.auto_off_s ?? null,
          evacuated_s: circuit.evacuated_s ?? null,
          level_pa: rule.pressure_pa ?? null,
          at_s: rule.time_s,
          start_max_pa: rule.start_max_pa ?? null,
        },
        channels: test.channels.map((c) => ({
          name: c.name,
          quantity: c.quantity,
          unit: c.unit,
          resolution: c.resolution ?? null,
          range: c.range ?? null,
          position: c.position ?? null,
        })),
      });
      keepEvent({ test: made.id, kind: "isolated", at_ms });
      await end.mutateAsync(undefined);
      if (test.is_live) await writes.listen(made.id)(true);
      void go(`/circuits/${test.circuit_id}?stage=decay&test=${made.id}`);
    } catch {
      // What was refused is said below.
    } finally {
      setBusy(false);
    }
  };
  const Press = isReached ? Primary : Button;
  const error = plan.error ?? end.error;
  return (
    <>
      <Press isDisabled={isBusy} onPress={() => void begin()}>
        Valve shut: start the decay
      </Press>
      <Trouble of={error} />
    </>
  );
}
