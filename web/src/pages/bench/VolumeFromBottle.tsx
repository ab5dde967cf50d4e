import type { Schemas } from "../../api/client";
import { bench, useBench } from "../../api/queries";
import { useEntry } from "../../form/entry";
import { amount, delta, value } from "../../form/schema";
import { Button, Field, Grid } from "../../look/parts";
import { trimmed, useUnits } from "../../units/units";
import { AIR, Answer, Wait } from "./parts";
import { Tracks } from "./Tracks";

const FIELDS = {
  bottle_l: amount("Bottle", "L of water", { first: "10" }),
  bottle_before_pa: value("pressure", "Bottle before"),
  bottle_after_pa: value("pressure", "Bottle after"),
  bottle_digit_pa: delta("pressure", "Bottle gauge step"),
  system_before_pa: value("pressure", "System before", { first: "0" }),
  system_after_pa: value("pressure", "System after"),
  system_digit_pa: delta("pressure", "System gauge step"),
};

/** The system's volume from what the bottle lost. */
export function VolumeFromBottle({
  onUse,
}: {
  onUse?: (litres: number) => void;
}) {
  const units = useUnits();
  const entry = useEntry(FIELDS, {
    bottle_digit_pa: trimmed(units.delta("pressure", 1e5), 2),
    system_digit_pa: trimmed(
      units.delta("pressure", units.pascal(0.1, "psi")),
      2,
    ),
  });
  const { field } = entry;
  const n = entry.whole(
    "bottle_l",
    "bottle_before_pa",
    "bottle_after_pa",
    "bottle_digit_pa",
    "system_before_pa",
    "system_after_pa",
    "system_digit_pa",
  );
  const body: Schemas["VolumeInput"] | null = n && {
    ...n,
    k: 294,
    air_pa: AIR,
  };
  const { data, error } = useBench("volume", body, bench.volume);
  return (
    <>
      <Grid $min={150}>
        <Field {...field("bottle_l")} />
        <Field {...field("bottle_before_pa")} />
        <Field {...field("bottle_after_pa")} />
        <Field {...field("bottle_digit_pa")} />
        <Field {...field("system_before_pa")} />
        <Field {...field("system_after_pa")} />
        <Field {...field("system_digit_pa")} />
      </Grid>
      <Answer aria-live="polite">
        {n && data ? (
          <>
            <b>{trimmed(data.volume_l, 2)} L</b>
            <Tracks
              least={0}
              of={[
                { label: "likely", from: data.volume_l },
                {
                  label: "as far as both gauges tell",
                  from: data.low_l,
                  to: data.high_l,
                  isApart: true,
                },
              ]}
            />
            <p>
              between {trimmed(data.low_l, 2)} and {trimmed(data.high_l, 2)} L,
              as far as both gauges can tell. Read them at rest.
            </p>
            {onUse && (
              <Button onPress={() => onUse(data.volume_l)}>
                Use it for this section
              </Button>
            )}
          </>
        ) : (
          <Wait
            error={n ? error : null}
            text="Read the bottle and the system before and after one fill, at rest."
          />
        )}
      </Answer>
    </>
  );
}
