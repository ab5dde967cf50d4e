import type { Schemas } from "../../api/client";
import { bench, useBench } from "../../api/queries";
import { useEntry } from "../../form/entry";
import { choice, text, value } from "../../form/schema";
import { Field, Grid } from "../../look/parts";
import { Pick } from "../../look/Pick";
import { trimmed, useUnits } from "../../units/units";
import { AIR, Answer, Source, Wait, Which } from "./parts";
import { Tracks } from "./Tracks";

const FIELDS = {
  refrigerant: text("Refrigerant"),
  by: choice<"pressure" | "temperature">("By", "pressure"),
  pa: value("pressure", "Pressure"),
  k: value("temperature", "Temperature"),
  pipe_k: value("temperature", "Pipe"),
};

/** Both lines of a refrigerant, and what a pipe beside them means. */
export function Saturation() {
  const units = useUnits();
  const entry = useEntry(FIELDS);
  const { field, si, text: said } = entry;
  const isPressure = said.by === "pressure";
  const isAsked = (isPressure ? si.pa : si.k) !== null && said.refrigerant;
  const body: Schemas["SaturationInput"] | null = isAsked
    ? {
        refrigerant: said.refrigerant,
        air_pa: AIR,
        pa: isPressure ? si.pa : null,
        k: isPressure ? null : si.k,
        pipe_k: isPressure ? si.pipe_k : null,
      }
    : null;
  const { data, error } = useBench("saturation", body, bench.saturation);
  const [p, t] = [units.label("pressure"), units.label("temperature")];
  const degrees = (k: number) =>
    `${trimmed(units.of("temperature", k), 4)} ${t}`;
  const apart = (k: number) =>
    `${trimmed(units.delta("temperature", k), 3)} ${units.deltaLabel("temperature")}`;
  const pressure = (pa: number) =>
    `${trimmed(units.of("pressure", pa), 4)} ${p}`;
  const lines = (bubble: number, dew: number, say: (n: number) => string) => [
    { label: `bubble line ${say(bubble)}`, from: bubble },
    { label: `dew line ${say(dew)}`, from: dew },
  ];
  const pipe = data && isPressure ? si.pipe_k : null;
  const byTemperature = data
    ? lines(data.bubble_pa, data.dew_pa, pressure)
    : [];
  const byPressure = data
    ? [
        ...lines(data.bubble_k, data.dew_k, degrees),
        ...(pipe === null
          ? []
          : [{ label: `pipe ${degrees(pipe)}`, from: pipe }]),
        ...(pipe === null || data.superheat_k == null
          ? []
          : [
              {
                label: `superheat ${apart(data.superheat_k)}`,
                from: data.dew_k,
                to: pipe,
                isApart: true,
              },
            ]),
        ...(pipe === null || data.subcooling_k == null
          ? []
          : [
              {
                label: `subcooling ${apart(data.subcooling_k)}`,
                from: pipe,
                to: data.bubble_k,
                isApart: true,
              },
            ]),
      ]
    : [];
  return (
    <>
      <Grid $min={150}>
        <Which {...field("refrigerant")} />
        <Pick
          {...field("by")}
          options={[
            { id: "pressure", text: "pressure" },
            { id: "temperature", text: "temperature" },
          ]}
        />
        {isPressure ? <Field {...field("pa")} /> : <Field {...field("k")} />}
        {isPressure && <Field {...field("pipe_k")} hint="if there is one" />}
      </Grid>
      <Answer aria-live="polite">
        {body && data ? (
          <>
            {data.superheat_k != null && (
              <b>superheat {apart(data.superheat_k)}</b>
            )}
            {data.subcooling_k != null && (
              <b>subcooling {apart(data.subcooling_k)}</b>
            )}
            <Tracks of={isPressure ? byPressure : byTemperature} />
            <p>
              Liquid boils from (bubble line):{" "}
              {isPressure ? degrees(data.bubble_k) : pressure(data.bubble_pa)}.
              Vapour condenses from (dew line):{" "}
              {isPressure ? degrees(data.dew_k) : pressure(data.dew_pa)}.
              {data.glide_k != null &&
                data.glide_k > 0.05 &&
                ` They lie ${apart(data.glide_k)} apart.`}
            </p>
            <p>
              Superheat counts from the dew line on the suction pipe, subcooling
              from the bubble line on the liquid pipe.
            </p>
          </>
        ) : (
          <Wait
            error={error}
            text="A pressure says at which temperature it boils; a temperature says at which pressure."
          />
        )}
      </Answer>
      <Source>
        From saturation tables that lie in the project, made with a reference
        library; the air taken as 1013.25 hPa.
      </Source>
    </>
  );
}
