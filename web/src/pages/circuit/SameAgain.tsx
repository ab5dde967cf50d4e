import type { Schemas } from "../../api/client";
import { useWrite, writes } from "../../api/queries";
import { Primary, Prompt, Trouble } from "../../look/parts";
import { useUnits } from "../../units/units";

/** The last hold once more, opened with one tap: same gauges, same procedure, at the pressure that is asked for. */
export function SameAgain({
  circuit,
  same,
  onMade,
}: {
  circuit: string;
  same: Schemas["SameAgain"];
  onMade: (id: string) => void;
}) {
  const units = useUnits();
  const save = useWrite(
    writes.test(circuit, { pressure: units.chosen.pressure }),
  );
  return (
    <Prompt aria-label="The same again">
      <p>{same.words}</p>
      <span>
        <Primary
          isDisabled={save.isPending}
          onPress={() =>
            save.mutate(same.input, { onSuccess: (made) => onMade(made.id) })
          }
        >
          {same.text}
        </Primary>
      </span>
      <Trouble of={save.error} />
    </Prompt>
  );
}
