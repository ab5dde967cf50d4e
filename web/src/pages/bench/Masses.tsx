import { useState } from "react";
import { bench, useBench } from "../../api/queries";
import { Field, Grid } from "../../look/parts";
import { Pick } from "../../look/Pick";
import { Answer, Wait } from "./parts";

/** A mass in every unit of the trade. */
export function Masses() {
  const [typed, setTyped] = useState("");
  const [unit, setUnit] = useState("kg");
  const { data, error } = useBench(
    "mass",
    typed.trim()
      ? { mass: { typed, unit }, expected_g: null, speaks: "" }
      : null,
    bench.mass,
  );
  return (
    <>
      <Grid $min={150}>
        <Field
          label="Mass"
          value={typed}
          onChange={setTyped}
          placeholder="9 lb 8.8 oz"
        />
        <Pick
          label="In"
          value={unit}
          onChange={setUnit}
          options={["kg", "g", "lb", "oz"].map((id) => ({ id, text: id }))}
        />
      </Grid>
      <Answer aria-live="polite">
        {typed.trim() && data ? (
          <>
            <b>{data.mass.words}</b>
            <p>{data.mass.forms.join(" · ")}</p>
          </>
        ) : (
          <Wait
            error={error}
            text="9.8 lb is not 9 lb 8 oz: a pound has sixteen ounces."
          />
        )}
      </Answer>
    </>
  );
}
