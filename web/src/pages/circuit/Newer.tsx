import type { Schemas } from "../../api/client";
import { Note } from "../../look/parts";

/** What a later version wrote may have changed anything that stands here. */
export function Newer({ circuit }: { circuit: Schemas["CircuitView"] }) {
  if (!circuit.newer) return null;
  return (
    <Note $kind="wrong" role="alert">
      A later version of Ruhe was here: {circuit.newer}.
    </Note>
  );
}
