import { Ledger } from "./Ledger";
import { Stop } from "./Stop";
import { Target } from "./Target";
import type { Circuit } from "../parts";

/** The charge: what the maker wants, the number to stop at, what went in. */
export function Charge({
  circuit,
  isReadOnly,
}: {
  circuit: Circuit;
  isReadOnly: boolean;
}) {
  const left = circuit.this_visit.ledger.to_add;
  const canStop =
    circuit.this_visit.target?.stops.length === 0 && left && left.g > 0.5;
  return (
    <>
      <Target circuit={circuit} isReadOnly={isReadOnly} />
      {!isReadOnly && canStop && <Stop circuit={circuit} />}
      <Ledger circuit={circuit} isReadOnly={isReadOnly} />
    </>
  );
}
