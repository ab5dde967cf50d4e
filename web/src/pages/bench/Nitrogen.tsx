import type { Schemas } from "../../api/client";
import { bench, useBench } from "../../api/queries";
import { useEntry } from "../../form/entry";
import { amount, delta, value } from "../../form/schema";
import { Field, Grid } from "../../look/parts";
import { trimmed, useUnits } from "../../units/units";
import { AIR, Answer, Wait } from "./parts";
import { Tracks } from "./Tracks";

const FIELDS = {
  bottle_l: amount("Bottle", "L of water", { first: "10" }),
  bottle_pa: value("pressure", "In the bottle"),
  system_l: amount("System", "L", { first: "5" }),
  from_pa: value("pressure", "In the system now", { first: "0" }),
  to_pa: value("pressure", "Wanted"),
  keeps_pa: delta("pressure", "Regulator keeps"),
};

/** Does the bottle reach, and how many fills are left? */
export function Nitrogen({
  start = {},
}: {
  start?: { to?: string; system?: string };
}) {
  const units = useUnits();
  const entry = useEntry(FIELDS, {
    bottle_pa: trimmed(units.of("pressure", 100e5), 4),
    ...(start.system && { system_l: start.system }),
    to_pa:
      start.to ?? trimmed(units.of("pressure", units.pascal(300, "psi")), 3),
    keeps_pa: trimmed(units.delta("pressure", 2e5), 2),
  });
  const { field } = entry;
  const n = entry.whole(
    "bottle_l",
    "bottle_pa",
    "system_l",
    "from_pa",
    "to_pa",
    "keeps_pa",
  );
  const body: Schemas["BudgetInput"] | null = n && {
    ...n,
    k: 294,
    air_pa: AIR,
  };
  const { data, error } = useBench("nitrogen", body, bench.nitrogen);
  const p = units.label("pressure");
  return (
    <>
      <Grid $min={150}>
        <Field {...field("bottle_l")} />
        <Field {...field("bottle_pa")} />
        <Field {...field("system_l")} />
        <Field {...field("from_pa")} />
        <Field {...field("to_pa")} />
        <Field {...field("keeps_pa")} />
      </Grid>
      <Answer aria-live="polite">
        {n && data ? (
          <>
            <b>
              {data.reaches
                ? `${data.fills} ${data.fills === 1 ? "fill" : "fills"}`
                : `only ${trimmed(units.of("pressure", data.reached_pa), 3)} ${p}`}
            </b>
            <Tracks
              least={0}
              of={[
                { label: "in the bottle", from: 0, to: n.bottle_pa },
                ...(data.reaches
                  ? [{ label: "after one fill", from: 0, to: data.left_pa }]
                  : [{ label: "reached", from: 0, to: data.reached_pa }]),
                {
                  label: "wanted, with what the regulator keeps",
                  from: 0,
                  to: n.to_pa + n.keeps_pa,
                  isApart: true,
                },
              ]}
            />
            <p>
              {data.reaches
                ? `After one fill the bottle stands at ${trimmed(units.of("pressure", data.left_pa), 3)} ${p}.`
                : "It runs out below the test pressure: take another bottle before you begin."}
            </p>
          </>
        ) : (
          <Wait error={n ? error : null} text="Some figure is still missing." />
        )}
      </Answer>
    </>
  );
}
