import { trimmed, useUnits } from "../../units/units";
import { Answer, Source } from "./parts";
import { Tracks } from "./Tracks";

/** Usual torques of flare nuts. */
export function Torque() {
  const { meta } = useUnits();
  const pounds = (nm: number) =>
    trimmed(Number((nm / 1.3558179483).toPrecision(2)));
  return (
    <>
      <Answer>
        <Tracks
          least={0}
          of={meta.torques.map((t) => ({
            label: `${t.size}: ${trimmed(t.low_nm)} to ${trimmed(t.high_nm)} N·m (${pounds(t.low_nm)} to ${pounds(t.high_nm)} lb·ft)`,
            from: t.low_nm,
            to: t.high_nm,
          }))}
        />
      </Answer>
      <Source>
        Usual figures for flare nuts on soft copper: a rule of thumb, no source.
        The maker’s table goes before it. Oil on the back of the flare only, and
        a second wrench against it.
      </Source>
    </>
  );
}
