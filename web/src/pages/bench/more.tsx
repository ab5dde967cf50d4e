import { useState } from "react";
import styled from "styled-components";
import type { Schemas } from "../../api/client";
import { bench, useBench } from "../../api/queries";
import { grams } from "../../charts/Ladder";
import { Field, Grid, Pick } from "../../look/parts";
import { span, trimmed, useUnits } from "../../units/units";
import { useLengths } from "../circuit/survey/rows";
import { AIR, Answer, Table, Wait, numbers, useFields } from "./calculators";

/** Which refrigerant; the list is the one of Ruhe's own tables. */
function Which({
  value,
  onChange,
}: {
  value: string;
  onChange: (name: string) => void;
}) {
  const { meta } = useUnits();
  return (
    <Pick
      label="Refrigerant"
      value={value}
      onChange={onChange}
      options={meta.refrigerants.map((r) => ({
        id: r.name,
        text: `${r.name} (${r.safety_class})`,
      }))}
    />
  );
}

const Source = styled.p`
  color: var(--soft);
  font-size: var(--t-note);
`;

/** Both lines of a refrigerant, and what a pipe beside them means. */
export function Saturation() {
  const units = useUnits();
  const [refrigerant, setRefrigerant] = useState("");
  const [by, setBy] = useState<"pressure" | "temperature">("pressure");
  const [f, field] = useFields(
    { at: "", k: "", pipe: "" },
    { pressure: { value: ["at"] }, temperature: { value: ["k", "pipe"] } },
  );
  const isPressure = by === "pressure";
  const n = numbers(isPressure ? { at: f.at ?? "" } : { k: f.k ?? "" });
  const pipe = numbers({ pipe: f.pipe ?? "" })?.pipe;
  const body: Schemas["SaturationInput"] | null =
    n && refrigerant
      ? {
          refrigerant,
          air_pa: AIR,
          pa: isPressure ? units.si("pressure", n.at ?? 0) : null,
          k: isPressure ? null : units.si("temperature", n.k ?? 0),
          pipe_k:
            isPressure && pipe !== undefined
              ? units.si("temperature", pipe)
              : null,
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
  return (
    <>
      <Grid $min={150}>
        <Which value={refrigerant} onChange={setRefrigerant} />
        <Pick
          label="By"
          value={by}
          onChange={setBy}
          options={[
            { id: "pressure", text: "pressure" },
            { id: "temperature", text: "temperature" },
          ]}
        />
        {isPressure ? (
          <Field
            label={`Pressure, ${p}`}
            {...field("at")}
            inputMode="decimal"
          />
        ) : (
          <Field
            label={`Temperature, ${t}`}
            {...field("k")}
            inputMode="decimal"
          />
        )}
        {isPressure && (
          <Field
            label={`Pipe, ${t}, if there is one`}
            {...field("pipe")}
            inputMode="decimal"
          />
        )}
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

/** What a rise under vacuum means. */
export function Rise() {
  const units = useUnits();
  const [refrigerant, setRefrigerant] = useState("");
  const [f, field] = useFields({ rise: "", minutes: "", low: "", high: "" });
  const high = f.high?.trim() ? f.high : (f.low ?? "");
  const n = numbers({ ...f, high });
  const body: Schemas["RiseInput"] | null =
    n && refrigerant
      ? {
          rise_pa: units.si("vacuum", n.rise ?? 0),
          over_s: 60 * (n.minutes ?? 0),
          low_l: n.low ?? 0,
          high_l: n.high ?? 0,
          k: 293.15,
          refrigerant,
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
        <Which value={refrigerant} onChange={setRefrigerant} />
        <Field
          label={`Rise, ${units.label("vacuum")}`}
          {...field("rise")}
          inputMode="decimal"
        />
        <Field label="In, min" {...field("minutes")} inputMode="decimal" />
        <Field label="Volume, L" {...field("low")} inputMode="decimal" />
        <Field
          label="At most, L, if not sure"
          {...field("high")}
          inputMode="decimal"
        />
      </Grid>
      <Answer aria-live="polite">
        {n && data ? (
          <>
            <b>
              all leak: {grams(data.low_g_per_year)} to{" "}
              {grams(data.high_g_per_year)} a year
            </b>
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

const FLOWS = {
  "L/min": 1e-3 / 60,
  "m³/h": 1 / 3600,
  cfm: 0.028316846592 / 60,
};

/** How long a pull takes, and what would help. */
export function PullTime() {
  const units = useUnits();
  const v = units.label("vacuum");
  const [f, field] = useFields({
    flow: "",
    ultimate: "",
    bore: "",
    length: "",
    volume: "",
    target: "",
  });
  const [flow, setFlow] = useState<keyof typeof FLOWS>("L/min");
  const [hoses, setHoses] = useState<"one" | "two">("one");
  const [core, setCore] = useState<"out" | "in">("out");
  const n = numbers(f);
  const body: Schemas["PullInput"] | null = n && {
    speed: (n.flow ?? 0) * FLOWS[flow],
    ultimate_pa: units.si("vacuum", n.ultimate ?? 0),
    bore_mm: n.bore ?? 0,
    length_m: n.length ?? 0,
    two_hoses: hoses === "two",
    core_in: core === "in",
    volume_l: n.volume ?? 0,
    target_pa: units.si("vacuum", n.target ?? 0),
  };
  const { data, error } = useBench("pull", body, bench.pull);
  return (
    <>
      <Grid $min={150}>
        <Field label="Pump’s flow" {...field("flow")} inputMode="decimal" />
        <Pick
          label="In"
          value={flow}
          onChange={setFlow}
          options={Object.keys(FLOWS).map((id) => ({
            id: id as keyof typeof FLOWS,
            text: id,
          }))}
        />
        <Field
          label={`Pump reaches blanked off, ${v}`}
          {...field("ultimate")}
          inputMode="decimal"
        />
        <Field
          label="Hose’s bore, mm"
          {...field("bore")}
          inputMode="decimal"
          hint="1/4 in hoses have some 5, 3/8 in 9.5"
        />
        <Field
          label="Hose’s length, m"
          {...field("length")}
          inputMode="decimal"
        />
        <Pick
          label="Hoses"
          value={hoses}
          onChange={setHoses}
          options={[
            { id: "one", text: "one" },
            { id: "two", text: "two, on two ports" },
          ]}
        />
        <Pick
          label="Valve cores"
          value={core}
          onChange={setCore}
          options={[
            { id: "out", text: "out" },
            { id: "in", text: "in" },
          ]}
        />
        <Field label="System, L" {...field("volume")} inputMode="decimal" />
        <Field
          label={`Target, ${v}`}
          {...field("target")}
          inputMode="decimal"
        />
      </Grid>
      <Answer aria-live="polite">
        {n && data ? (
          <>
            <b>
              {data.takes_s == null
                ? "it does not get there"
                : `at least ${span(data.takes_s)}`}
            </b>
            <p>
              for a dry and tight system. Water and oil take longer, whatever
              the hose.
            </p>
            {data.gains.slice(0, 2).map((g) => (
              <p key={g.name}>
                {g.is_taken_away
                  ? `Without ${g.name}`
                  : `With ${g.name} twice as wide`}
                : {span(g.takes_s)}.
              </p>
            ))}
          </>
        ) : (
          <Wait
            error={error}
            text="Bore counts most: a hose half as wide pumps up to sixteen times slower."
          />
        )}
      </Answer>
      <Source>
        Flow through tubes from viscous to molecular; core and tools as tubes
        (common practice, no source).
      </Source>
    </>
  );
}

/** What a maker adds for the length of a line. */
export function Additional() {
  const lengths = useLengths();
  const { meta } = useUnits();
  const first = lengths[0]?.id ?? "m";
  const [f, field] = useFields({ length: "", included: "", rate: "" });
  const [unit, setUnit] = useState(first);
  const [rate, setRate] = useState(first === "ft" ? "oz/ft" : "g/m");
  const n = numbers(f);
  const body: Schemas["AdditionalInput"] | null = n && {
    length: { typed: f.length ?? "", unit },
    included: { typed: f.included ?? "", unit },
    rate: { typed: f.rate ?? "", unit: rate },
  };
  const { data, error } = useBench("additional", body, bench.additional);
  return (
    <>
      <Grid $min={150}>
        <Field label="Line, one way" {...field("length")} inputMode="decimal" />
        <Field
          label="Covered by the factory charge"
          {...field("included")}
          inputMode="decimal"
        />
        <Pick
          label="Lengths in"
          value={unit}
          onChange={setUnit}
          options={lengths}
        />
        <Field label="Maker’s rate" {...field("rate")} inputMode="decimal" />
        <Pick
          label="Rate in"
          value={rate}
          onChange={setRate}
          options={meta.finish.rates.map((r) => ({
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

/** Usual torques of flare nuts. */
export function Torque() {
  const { meta } = useUnits();
  const pounds = (nm: number) =>
    trimmed(Number((nm / 1.3558179483).toPrecision(2)));
  return (
    <>
      <Answer>
        <Table>
          {meta.torques.map((t) => (
            <li key={t.size}>
              <span>{t.size}</span> {trimmed(t.low_nm)} to {trimmed(t.high_nm)}{" "}
              N·m ({pounds(t.low_nm)} to {pounds(t.high_nm)} lb·ft)
            </li>
          ))}
        </Table>
      </Answer>
      <Source>
        Usual figures for flare nuts on soft copper: a rule of thumb, no source.
        The maker’s table goes before it. Oil on the back of the flare only, and
        a second wrench against it.
      </Source>
    </>
  );
}

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
