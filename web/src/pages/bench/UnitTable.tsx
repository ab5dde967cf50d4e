import { useState } from "react";
import { Field, Grid } from "../../look/parts";
import { Pick } from "../../look/Pick";
import { figure } from "../../units/typed";
import { trimmed, useUnits } from "../../units/units";
import { AIR, Answer, Table } from "./parts";

/** Units beside each other, the vacuum dial too: it counts downwards. */
export function UnitTable() {
  const units = useUnits();
  const [value, setValue] = useState("");
  const [code, setCode] = useState("psig");
  const pressures = units.meta.units.filter((u) => u.dimension === "pressure");
  const of = pressures.find((u) => u.code === code);
  const typed = figure(value);
  const isDial = code === "inHg-dial";
  const isGauge = code === "psig";
  // Everything by way of absolute pressure, in air of 1013.25 hPa.
  const absolute = isDial
    ? AIR - units.pascal(typed, "inHg")
    : typed * (of?.factor ?? 1) + (isGauge ? AIR : 0);
  return (
    <>
      <Grid $min={190}>
        <Field
          label="Value"
          value={value}
          onChange={setValue}
          inputMode="decimal"
        />
        <Pick
          label="In"
          value={code}
          onChange={setCode}
          options={[
            ...pressures
              .filter((u) => u.code !== "psi")
              .map((u) => ({
                id: u.code,
                text:
                  u.code === "psig"
                    ? "psig (above the air)"
                    : `${u.code === "inHg" ? u.code : u.label} absolute`,
              })),
            { id: "inHg-dial", text: "inHg on a vacuum dial" },
          ]}
        />
      </Grid>
      <Answer aria-live="polite">
        {Number.isFinite(absolute) && absolute >= -1 ? (
          <Table>
            {pressures
              .filter((u) => !["psi", "psig", "inHg"].includes(u.code))
              .map((u) => (
                <li key={u.code}>
                  <span>{u.label}</span> {trimmed(absolute / u.factor, 5)}
                </li>
              ))}
            <li>
              <span>psig</span>{" "}
              {trimmed((absolute - AIR) / units.pascal(1, "psi"), 5)}
            </li>
            {absolute < AIR && (
              <li>
                <span>inHg dial</span>{" "}
                {trimmed((AIR - absolute) / units.pascal(1, "inHg"), 4)}
              </li>
            )}
          </Table>
        ) : (
          <p>
            {Number.isFinite(absolute)
              ? "That is below a perfect vacuum."
              : "Absolute unless it says otherwise; the air taken as 1013.25 hPa."}
          </p>
        )}
      </Answer>
      {Number.isFinite(absolute) && absolute >= 0 && absolute < 30_000 && (
        <p>
          A dial of 1 inHg steps moves in jumps of 25 400 micron: it shows that
          there is some vacuum, not how deep.
        </p>
      )}
    </>
  );
}
