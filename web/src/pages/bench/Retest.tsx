import type { Schemas } from "../../api/client";
import { bench, useBench } from "../../api/queries";
import { useEntry } from "../../form/entry";
import { value } from "../../form/schema";
import { Field, Grid } from "../../look/parts";
import { trimmed } from "../../units/units";
import { AIR, Answer, Wait } from "./parts";
import { Tracks } from "./Tracks";

const FIELDS = {
  found_pa: value("pressure", "Leak shown at"),
  again_pa: value("pressure", "Test again at"),
};

/** A re-test below the pressure of the find: how much slower it shows. */
export function Retest() {
  const entry = useEntry(FIELDS);
  const { field } = entry;
  const n = entry.whole("found_pa", "again_pa");
  const body: Schemas["RetestInput"] | null = n && { ...n, air_pa: AIR };
  const { data, error } = useBench("retest", body, bench.retest);
  return (
    <>
      <Grid $min={190}>
        <Field {...field("found_pa")} />
        <Field {...field("again_pa")} />
      </Grid>
      <Answer aria-live="polite">
        {n && data ? (
          <>
            <b>{trimmed(data.times_as_long, 2)} times as long</b>
            <Tracks
              least={0}
              of={[
                { label: "to show it at the find", from: 0, to: 1 },
                {
                  label: "to show it again",
                  from: 0,
                  to: data.times_as_long,
                },
              ]}
            />
            <p>
              {data.is_lower
                ? `There the same leak loses only ${trimmed(100 * data.laminar, 2)} % as fast if it is laminar, ${trimmed(100 * data.choked, 2)} % if it is choked. Some leaks open only at the higher pressure: test at least as high.`
                : "At least as high as the find: as it should be."}
            </p>
          </>
        ) : (
          <Wait
            error={n ? error : null}
            text="Flow goes with P² − air²: a lower re-test can hide what was found."
          />
        )}
      </Answer>
    </>
  );
}
