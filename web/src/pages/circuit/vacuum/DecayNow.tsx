import { useState } from "react";
import { useNavigate } from "react-router";
import type { Schemas } from "../../../api/client";
import { now as nowHere } from "../../../api/clock";
import { keepEvent } from "../../../api/outbox";
import { useCircuit, useWrite, writes } from "../../../api/queries";
import { Button, Primary, Trouble } from "../../../look/parts";
import { useUnits } from "../../../units/units";
import { begun } from "../plan";

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
  const next = begun(units.meta, "vacuum-decay", circuit?.begins.decays ?? []);
  if (!next) return null;
  const begin = async () => {
    const at_ms = nowHere();
    setBusy(true);
    try {
      const made = await plan.mutateAsync(next);
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
