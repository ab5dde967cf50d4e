import type { Schemas } from "../../../api/client";
import { bench, useBench } from "../../../api/queries";
import { Note } from "../../../look/parts";
import { trimmed, useUnits } from "../../../units/units";

/** A re-test below the pressure that showed the leak: allowed, but said, with the hold that would be worth as much. */
export function LowerRetest({
  again,
  planned,
}: {
  again: Schemas["AgainView"] | undefined;
  planned: number | null;
}) {
  const units = useUnits();
  const found = again?.at_least_pa ?? 0;
  const { data } = useBench(
    "retest",
    again && found > 0 && planned !== null
      ? { found_pa: found, again_pa: planned, air_pa: again.air_pa }
      : null,
    bench.retest,
  );
  if (!again || planned === null || !data?.is_lower) return null;
  return (
    <Note>
      Below the {trimmed(units.of("pressure", found), 3)}{" "}
      {units.label("pressure")} that showed the leak: it would lose only{" "}
      {trimmed(Number((100 * data.laminar).toPrecision(2)))} to{" "}
      {trimmed(Number((100 * data.choked).toPrecision(2)))} % as fast here, so
      hold {trimmed(Number(data.times_as_long.toPrecision(2)))} times as long.
      It does not count as the re-test.
    </Note>
  );
}
