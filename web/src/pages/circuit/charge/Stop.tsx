import { Link } from "react-router";
import { tried } from "../../../api/visit";
import { useBench } from "../../../api/queries";
import { Field, Grid, Note } from "../../../look/parts";
import { Pick } from "../../../look/Pick";
import { useUnits } from "../../../units/units";
import { Box, Choice, Huge, type Circuit } from "../parts";
import { isReady, useScale } from "./scale";

const STEPS: Record<string, string[]> = {
  g: ["1", "2", "5"],
  kg: ["0.001", "0.002", "0.005", "0.01", "0.02"],
  oz: ["0.1", "0.2", "0.5"],
  lb: ["0.01", "0.02", "0.05"],
  "lb-oz": ["0.1", "0.2", "0.5"],
};

/** The number to stop at, on the scale that stands there. */
export function Stop({ circuit }: { circuit: Circuit }) {
  const { meta } = useUnits();
  const [scale, set] = useScale(circuit.id);
  const { data, error } = useBench(
    `stop ${circuit.id} ${circuit.head}`,
    isReady(scale) ? scale : null,
    tried.stop(circuit.id),
  );
  return (
    <Box>
      <h2>The number to stop at</h2>
      <Grid $min={170}>
        <Choice
          of="scale_modes"
          label="The scale"
          value={scale.mode}
          onChange={(mode) => set({ ...scale, mode })}
        />
        <Pick
          label="It shows"
          value={scale.unit}
          onChange={(unit) =>
            set({ ...scale, unit, step: STEPS[unit]?.[1] ?? "", start: "" })
          }
          options={meta.choices.mass_units.map((u) => ({
            id: u.code,
            text: u.title,
          }))}
        />
        <Pick
          label={scale.unit === "lb-oz" ? "In steps of, oz" : "In steps of"}
          value={scale.step}
          onChange={(step) => set({ ...scale, step })}
          options={(STEPS[scale.unit] ?? []).map((s) => ({ id: s, text: s }))}
        />
        {scale.mode === "counts_down" && (
          <Field
            label={
              scale.unit === "lb-oz"
                ? "Shows now, like 18 lb 9.0 oz"
                : `Shows now, ${scale.unit}`
            }
            value={scale.start ?? ""}
            onChange={(start) => set({ ...scale, start })}
            inputMode={scale.unit === "lb-oz" ? "text" : "decimal"}
          />
        )}
        <Pick
          label="The hose"
          value={scale.hose_full ? "full" : "empty"}
          onChange={(v) => set({ ...scale, hose_full: v === "full" })}
          options={[
            { id: "full", text: "full of liquid" },
            { id: "empty", text: "empty before" },
          ]}
        />
        {!scale.hose_full && (
          <>
            <Field
              label="Its length, m"
              value={scale.hose_m ?? ""}
              onChange={(hose_m) => set({ ...scale, hose_m })}
              inputMode="decimal"
            />
            <Field
              label="Its bore, mm"
              value={scale.bore_mm ?? ""}
              onChange={(bore_mm) => set({ ...scale, bore_mm })}
              inputMode="decimal"
            />
          </>
        )}
      </Grid>
      <div aria-live="polite">
        {isReady(scale) && data && !error ? (
          <>
            <Huge>{data.stop}</Huge>
            <p>
              To add {data.to_add.words}; stopped there {data.adds.words} is in.
              From {data.throttle} on it is close: throttle.
            </p>
            {data.words.map((w) => (
              <Note key={w}>{w}</Note>
            ))}
            <p>
              <Link to={`/circuits/${circuit.id}/scale`}>
                Large, for the phone on the cylinder
              </Link>
            </p>
          </>
        ) : (
          <p>{error?.message ?? "Type what the scale shows now."}</p>
        )}
      </div>
    </Box>
  );
}
