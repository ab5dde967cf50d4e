import type { Schemas } from "../../api/client";
import { bench, useBench } from "../../api/queries";
import { useEntry } from "../../form/entry";
import { amount, text } from "../../form/schema";
import { Field, Grid } from "../../look/parts";
import { Pick } from "../../look/Pick";
import { useUnits } from "../../units/units";
import { useLengths } from "../circuit/survey/rows";
import { Answer, Wait } from "./parts";
import { Tracks } from "./Tracks";

const FIELDS = {
  length: amount("Line, one way"),
  included: amount("Covered by the factory charge"),
  unit: text("Lengths in"),
  rate: amount("Maker’s rate"),
  per: text("Rate in"),
};

/** What a maker adds for the length of a line. */
export function Additional() {
  const lengths = useLengths();
  const { meta } = useUnits();
  const first = lengths[0]?.id ?? "m";
  const entry = useEntry(FIELDS, {
    unit: first,
    per: first === "ft" ? "oz/ft" : "g/m",
  });
  const { field, text: said } = entry;
  const n = entry.whole("length", "included", "rate");
  const body: Schemas["AdditionalInput"] | null = n && {
    length: { typed: said.length, unit: said.unit },
    included: { typed: said.included, unit: said.unit },
    rate: { typed: said.rate, unit: said.per },
  };
  const { data, error } = useBench("additional", body, bench.additional);
  return (
    <>
      <Grid $min={150}>
        <Field {...field("length")} />
        <Field {...field("included")} />
        <Pick {...field("unit")} options={lengths} />
        <Field {...field("rate")} />
        <Pick
          {...field("per")}
          options={meta.choices.rates.map((r) => ({
            id: r.code,
            text: r.title,
          }))}
        />
      </Grid>
      <Answer aria-live="polite">
        {n && data ? (
          <>
            <b>{data.is_covered ? "nothing to add" : data.mass.words}</b>
            {!data.is_covered && <p>{data.mass.forms.join(" · ")}</p>}
            <Tracks
              least={0}
              of={[
                { label: "line", from: 0, to: n.length },
                {
                  label: "covered",
                  from: 0,
                  to: Math.min(n.length, n.included),
                  isApart: true,
                },
                ...(data.is_covered
                  ? []
                  : [
                      {
                        label: "added for",
                        from: n.included,
                        to: n.length,
                        isApart: true,
                      },
                    ]),
              ]}
            />
            {data.is_covered && (
              <p>The factory charge covers it; nothing is taken out either.</p>
            )}
          </>
        ) : (
          <Wait
            error={error}
            text="Rate and covered length stand in the maker’s manual; the charge page of a job holds them against what the tube can hold."
          />
        )}
      </Answer>
    </>
  );
}
