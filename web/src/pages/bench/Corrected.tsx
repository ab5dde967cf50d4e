import type { Schemas } from "../../api/client";
import { bench, useBench } from "../../api/queries";
import { useEntry } from "../../form/entry";
import { value } from "../../form/schema";
import { Field, Grid } from "../../look/parts";
import { plain, trimmed, useUnits } from "../../units/units";
import { AIR, Answer, Wait } from "./parts";
import { Tracks } from "./Tracks";

const FIELDS = {
  start_pa: value("pressure", "Start"),
  start_k: value("temperature", "Pipe at the start"),
  end_pa: value("pressure", "End"),
  end_k: value("temperature", "Pipe at the end"),
};

/** Two readings, two temperatures: what is missing. */
export function Corrected() {
  const units = useUnits();
  const entry = useEntry(FIELDS);
  const { field } = entry;
  const n = entry.whole("start_pa", "end_pa", "start_k", "end_k");
  const body: Schemas["CorrectedInput"] | null = n && { ...n, air_pa: AIR };
  const { data, error } = useBench("corrected", body, bench.corrected);
  const [p, d] = [units.label("pressure"), units.deltaLabel("pressure")];
  const say = (pa: number) => `${plain(units.delta("pressure", pa), 2)} ${d}`;
  return (
    <>
      <Grid $min={150}>
        <Field {...field("start_pa")} />
        <Field {...field("start_k")} />
        <Field {...field("end_pa")} />
        <Field {...field("end_k")} />
      </Grid>
      <Answer aria-live="polite">
        {n && data ? (
          <>
            <b>
              {data.lost_pa >= 0 ? "lost" : "gained"}{" "}
              {say(Math.abs(data.lost_pa))}
            </b>
            <Tracks
              of={[
                { label: "start", from: n.start_pa },
                { label: "end, as read", from: n.end_pa },
                {
                  label: "end, at the start’s temperature",
                  from: data.corrected_pa,
                },
                {
                  label: data.lost_pa >= 0 ? "lost" : "gained",
                  from: data.corrected_pa,
                  to: n.start_pa,
                  isApart: true,
                },
              ]}
            />
            <p>
              Temperature alone did {say(data.by_temperature_pa)}; at the
              start’s temperature the end would read{" "}
              {trimmed(units.of("pressure", data.corrected_pa), 5)} {p}. By the
              ideal gas law: {data.lost_ideal_pa >= 0 ? "lost" : "gained"}{" "}
              {say(Math.abs(data.lost_ideal_pa))}. Two readings have no
              interval: a hold has.
            </p>
          </>
        ) : (
          <Wait
            error={n ? error : null}
            text="Dry nitrogen only, in a closed system. Four figures."
          />
        )}
      </Answer>
    </>
  );
}
