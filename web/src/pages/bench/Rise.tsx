import type { Schemas } from "../../api/client";
import { bench, useBench } from "../../api/queries";
import { grams } from "../../charts/Ladder";
import { useEntry } from "../../form/entry";
import { amount, delta, text } from "../../form/schema";
import { Field, Grid } from "../../look/parts";
import { trimmed } from "../../units/units";
import { Answer, Source, Wait, Which } from "./parts";
import { Tracks } from "./Tracks";

const FIELDS = {
  refrigerant: text("Refrigerant"),
  rise_pa: delta("vacuum", "Rise"),
  over_s: amount("In", "min", { times: 60 }),
  low_l: amount("Volume", "L"),
  high_l: amount("At most", "L"),
};

/** What a rise under vacuum means. */
export function Rise() {
  const entry = useEntry(FIELDS);
  const { field, si, text: said } = entry;
  const n = entry.whole("rise_pa", "over_s", "low_l");
  // What is typed and no number is not taken for nothing.
  const isOdd = said.high_l.trim() !== "" && si.high_l === null;
  const body: Schemas["RiseInput"] | null =
    n && said.refrigerant && !isOdd
      ? {
          ...n,
          high_l: si.high_l ?? n.low_l,
          k: 293.15,
          refrigerant: said.refrigerant,
        }
      : null;
  const { data, error } = useBench("rise", body, bench.rise);
  const two = (a: number, b: number, say: (x: number) => string) =>
    say(a) === say(b) ? say(a) : `${say(a)} to ${say(b)}`;
  const mg = (x: number) => `${trimmed(Number(x.toPrecision(2)))} mg`;
  const q = (x: number) => `${x.toExponential(1)} Pa·m³/s`;
  return (
    <>
      <Grid $min={150}>
        <Which {...field("refrigerant")} />
        <Field {...field("rise_pa")} />
        <Field {...field("over_s")} />
        <Field {...field("low_l")} />
        <Field {...field("high_l")} hint="if not sure" />
      </Grid>
      <Answer aria-live="polite">
        {body && data ? (
          <>
            <b>
              all leak: {grams(data.low_g_per_year)} to{" "}
              {grams(data.high_g_per_year)} a year
            </b>
            <Tracks
              isLog
              of={[
                {
                  label: `all leak, a year`,
                  from: data.low_g_per_year,
                  to: data.high_g_per_year,
                },
                { label: "10 g a year", from: 10 },
                { label: "1 kg a year", from: 1_000 },
              ]}
            />
            <p>
              as refrigerant at work; the same hole passes{" "}
              {two(data.low, data.high, q)} of air under vacuum.
            </p>
            <p>
              All water: {two(data.low_water_mg, data.high_water_mg, mg)} of
              vapour came in that time. Which of the two it is, a decay tells by
              its shape.
            </p>
          </>
        ) : (
          <Wait
            error={error}
            text="The volume decides: the same rise in a larger system is a larger leak."
          />
        )}
      </Answer>
      <Source>
        Q = V·Δp/Δt; water by the ideal gas law at 20 °C. The range of the leak
        is that between molecular flow on the low side and laminar flow on the
        high side: which one it is nobody knows.
      </Source>
    </>
  );
}
