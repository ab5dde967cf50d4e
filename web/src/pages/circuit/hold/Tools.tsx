import type { Schemas } from "../../../api/client";
import { Field, Grid } from "../../../look/parts";
import { Pick } from "../../../look/Pick";
import { KitTicks } from "../kit/KitTicks";
import { Closed } from "../plan";
import type { HoldEntry } from "./fields";

/** What few holds need: parts that are weaker than the plates, the air, a tracer, reminders, other tools. */
export function Tools({
  entry: { field, text },
  items,
  also,
  onAlso,
}: {
  entry: HoldEntry;
  items: Schemas["KitItem"][];
  also: string[];
  onAlso: (ids: string[]) => void;
}) {
  return (
    <Closed>
      <summary>Tools, air and reminders</summary>
      <Grid $min={150}>
        <Field {...field("fittings_pa")} hint="hoses, core tools" />
        <Field {...field("regulator_pa")} />
        <Field {...field("relief_pa")} hint="if one is left in" />
        <Field {...field("switch_pa")} hint="if one is left in" />
        <Field {...field("sensor_pa")} hint="if one is left in" />
        <Pick
          {...field("reference")}
          options={[
            { id: "vented", text: "vented" },
            { id: "sealed", text: "sealed" },
          ]}
        />
        <Field {...field("calibration_due")} placeholder="2027-03-31" />
        <Pick
          {...field("air")}
          options={[
            { id: "none", text: "not known" },
            { id: "altitude", text: "from the altitude" },
            { id: "typed", text: "a barometer here" },
            { id: "channel", text: "read along" },
          ]}
          hint={
            text.air === "none"
              ? "the weather goes into the interval"
              : "not a weather service’s: that is for the sea"
          }
        />
        {text.air === "altitude" && <Field {...field("altitude_m")} />}
        {text.air === "typed" && <Field {...field("barometer_pa")} />}
        <Pick
          {...field("inside")}
          options={[
            { id: "nitrogen", text: "dry nitrogen" },
            { id: "tracer", text: "nitrogen with tracer" },
            { id: "refrigerant", text: "refrigerant left in it" },
          ]}
          hint={
            text.inside === "refrigerant"
              ? "no tightness verdict will be made"
              : undefined
          }
        />
        {text.inside === "tracer" && (
          <Field
            {...field("tracer_pa")}
            hint="before the nitrogen went on top"
          />
        )}
        <Field {...field("read_every_s")} hint="rings when it is due" />
        <Field
          {...field("dead_volume_ml")}
          hint="only if the gauge comes off meanwhile"
        />
        <Field {...field("auto_off_s")} hint="warns before it sleeps" />
      </Grid>
      <KitTicks
        legend="Also used"
        items={items.filter((i) =>
          ["probe", "bottle", "regulator", "core_tool", "hose"].includes(
            i.doc.kind ?? "",
          ),
        )}
        chosen={also}
        onChange={onAlso}
      />
    </Closed>
  );
}
