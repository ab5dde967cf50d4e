import { figure } from "../../units/typed";
import { useState } from "react";
import styled from "styled-components";
import type { Schemas } from "../../api/client";
import { bench, useBench } from "../../api/queries";
import { grams } from "../../charts/Ladder";
import { Button, Field, Grid, Note, Pick } from "../../look/parts";
import { plain, span, trimmed, useUnits, type Kind } from "../../units/units";
import { useSwitch, type Switch } from "../../units/switch";
import { SITS, type Sits } from "../circuit/sits";
import { EnoughChart } from "./EnoughChart";

export const AIR = 101_325;

export const Answer = styled.div`
  border-left: 4px solid var(--accent);
  padding: 4px 0 4px 14px;
  min-height: 54px;
  b {
    font-family: var(--mono);
    font-size: var(--t-head);
  }
  p {
    color: var(--soft);
  }
`;

/** Typed fields as numbers; null while one is empty or no number. */
export function numbers(
  fields: Record<string, string>,
): Record<string, number> | null {
  const out: Record<string, number> = {};
  for (const [k, v] of Object.entries(fields)) {
    const n = figure(v);
    if (Number.isNaN(n)) return null;
    out[k] = n;
  }
  return out;
}

type Fields = Record<string, string>;
/** `of`: fields in a chosen unit, by name; they are converted when another is chosen. */
export function useFields(
  start: Fields,
  of: Partial<Record<Kind, { value?: string[]; delta?: string[] }>> = {},
): [
  Fields,
  (name: string) => { value: string; onChange: (v: string) => void },
] {
  const [fields, set] = useState(start);
  const convert =
    (kind: Kind) =>
    ({ value, delta }: Switch) =>
      set((f) => {
        const out = { ...f };
        for (const k of of[kind]?.value ?? []) out[k] = value(f[k] ?? "");
        for (const k of of[kind]?.delta ?? []) out[k] = delta(f[k] ?? "");
        return out;
      });
  useSwitch("pressure", convert("pressure"));
  useSwitch("temperature", convert("temperature"));
  return [
    fields,
    (name) => ({
      value: fields[name] ?? "",
      onChange: (v) => set((f) => ({ ...f, [name]: v })),
    }),
  ];
}

export const Wait = ({ error, text }: { error: Error | null; text: string }) =>
  error ? (
    <Note $kind="wrong" role="alert">
      {error.message}
    </Note>
  ) : (
    <p>{text}</p>
  );

/** What a weather's figure is. */
const SKIES: Record<Schemas["SkyKind"], string> = {
  steady: "",
  ramp: "An hour",
  cloud: "From sun to shade",
  day: "Either way over a day",
};

/** Two readings, two temperatures: what is missing. */
export function Corrected() {
  const units = useUnits();
  const [f, field] = useFields(
    { start: "", end: "", t0: "", t1: "" },
    {
      pressure: { value: ["start", "end"] },
      temperature: { value: ["t0", "t1"] },
    },
  );
  const n = numbers(f);
  const body: Schemas["CorrectedInput"] | null = n && {
    start_pa: units.si("pressure", n.start ?? 0),
    end_pa: units.si("pressure", n.end ?? 0),
    start_k: units.si("temperature", n.t0 ?? 0),
    end_k: units.si("temperature", n.t1 ?? 0),
    air_pa: AIR,
  };
  const { data, error } = useBench("corrected", body, bench.corrected);
  const [p, t, d] = [
    units.label("pressure"),
    units.label("temperature"),
    units.deltaLabel("pressure"),
  ];
  const say = (pa: number) => `${plain(units.delta("pressure", pa), 2)} ${d}`;
  return (
    <>
      <Grid $min={150}>
        <Field label={`Start, ${p}`} {...field("start")} inputMode="decimal" />
        <Field
          label={`Pipe at the start, ${t}`}
          {...field("t0")}
          inputMode="decimal"
        />
        <Field label={`End, ${p}`} {...field("end")} inputMode="decimal" />
        <Field
          label={`Pipe at the end, ${t}`}
          {...field("t1")}
          inputMode="decimal"
        />
      </Grid>
      <Answer aria-live="polite">
        {n && data ? (
          <>
            <b>
              {data.lost_pa >= 0 ? "lost" : "gained"}{" "}
              {say(Math.abs(data.lost_pa))}
            </b>
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

export interface EnoughStart {
  pressure?: string;
  digit?: string;
  probes?: string;
  probe?: Sits;
  volume?: [number, number];
  refrigerant?: string;
  every?: string;
}

/** How long is enough for a wanted leak, and what would help. */
export function Enough({ start = {} }: { start?: EnoughStart }) {
  const units = useUnits();
  const [f, field] = useFields(
    {
      pressure:
        start.pressure ??
        trimmed(units.of("pressure", units.pascal(300, "psi")), 3),
      digit:
        start.digit ??
        trimmed(units.delta("pressure", units.pascal(0.1, "psi")), 2),
      low: trimmed(start.volume?.[0] ?? units.meta.usual_volume_low_l, 3),
      high: trimmed(start.volume?.[1] ?? units.meta.usual_volume_high_l, 3),
      every: start.every ?? "60",
      wanted: "500",
      sky_k: trimmed(units.delta("temperature", 6), 3),
      hour: "9",
    },
    {
      pressure: { value: ["pressure"], delta: ["digit"] },
      temperature: { delta: ["sky_k"] },
    },
  );
  const [probes, setProbes] = useState(start.probes ?? "1");
  const [probe, setProbe] = useState<Sits>(start.probe ?? "unsaid");
  const [sky, setSky] = useState<Schemas["SkyKind"]>("steady");
  const [barometer, setBarometer] = useState("no");
  const [gas, setGas] = useState(start.refrigerant ?? "R-410A");
  const n = numbers(f);
  const body: Schemas["EnoughInput"] | null = n && {
    test_pa: units.si("pressure", n.pressure ?? 0),
    air_pa: AIR,
    k: 294,
    digit_pa: units.si("pressure", n.digit ?? 0) - units.si("pressure", 0),
    range_pa: 5.5e6,
    probes: Number(probes),
    probe: probe === "unsaid" ? null : probe,
    every_s: n.every ?? 60,
    has_barometer: barometer === "yes",
    sky,
    sky_k:
      (n.sky_k ?? 0) *
      (units.si("temperature", 1) - units.si("temperature", 0)),
    hour: n.hour ?? 9,
    volume_low_l: n.low ?? 0,
    volume_high_l: n.high ?? 0,
    refrigerant: gas,
    grams: n.wanted ?? 0,
    rate: null,
  };
  const { data, error } = useBench("enough", body, bench.enough);
  const best = data?.variants[0];
  return (
    <>
      <Grid $min={150}>
        <Field
          label={`Test pressure, ${units.label("pressure")}`}
          {...field("pressure")}
          inputMode="decimal"
        />
        <Field
          label="Leak wanted, g a year"
          {...field("wanted")}
          inputMode="decimal"
          hint="at work, worst case"
        />
        <Field
          label={`Gauge step, ${units.deltaLabel("pressure")}`}
          {...field("digit")}
          inputMode="decimal"
        />
        <Pick
          label="Probes"
          value={probes}
          onChange={setProbes}
          options={["1", "2", "3"].map((id) => ({ id, text: id }))}
        />
        <Pick
          label="Probe is"
          value={probe}
          onChange={setProbe}
          options={SITS}
        />
        <Field
          label="Volume, L, at least"
          {...field("low")}
          inputMode="decimal"
        />
        <Field
          label="Volume, L, at most"
          {...field("high")}
          inputMode="decimal"
        />
        <Field label="Read every, s" {...field("every")} inputMode="decimal" />
        <Pick
          label="Refrigerant"
          value={gas}
          onChange={setGas}
          options={units.meta.refrigerants.map((r) => ({
            id: r.name,
            text: r.name,
          }))}
        />
        <Pick
          label="Weather"
          value={sky}
          onChange={setSky}
          options={[
            { id: "steady", text: "steady" },
            { id: "ramp", text: "warming or cooling" },
            { id: "cloud", text: "sun and cloud" },
            { id: "day", text: "over a day" },
          ]}
        />
        {sky !== "steady" && (
          <Field
            label={`${SKIES[sky]}, ${units.label("temperature")}`}
            {...field("sky_k")}
            inputMode="decimal"
          />
        )}
        {sky === "day" && (
          <Field label="Begun at, h" {...field("hour")} inputMode="decimal" />
        )}
        <Pick
          label="Barometer read"
          value={barometer}
          onChange={setBarometer}
          options={[
            { id: "no", text: "no" },
            { id: "yes", text: "yes, or sealed gauge" },
          ]}
        />
      </Grid>
      <Answer aria-live="polite">
        {n && data && best ? (
          <>
            <b>
              {best.needed_s == null
                ? "more than two days"
                : span(best.needed_s)}
            </b>
            <p>
              {best.needed_s == null
                ? `Within two days this set does not show ${grams(n.wanted ?? 0)} a year.`
                : `from the shut supply, settling included, to rule out ${grams(n.wanted ?? 0)} a year.`}{" "}
              {data.variants
                .slice(1)
                .map(
                  (v) =>
                    `${v.name.charAt(0).toUpperCase()}${v.name.slice(1)}: ${v.needed_s == null ? "more than two days" : span(v.needed_s)}.`,
                )
                .join(" ")}
            </p>
          </>
        ) : (
          <Wait error={n ? error : null} text="Some figure is still missing." />
        )}
      </Answer>
      {n && data && <EnoughChart view={data} wanted={n.wanted ?? 0} />}
    </>
  );
}

/** Does the bottle reach, and how many fills are left? */
export function Nitrogen({
  start = {},
}: {
  start?: { to?: string; system?: string };
}) {
  const units = useUnits();
  const [f, field] = useFields(
    {
      bottle: "10",
      pressure: trimmed(units.of("pressure", 100e5), 4),
      system: start.system ?? "5",
      to:
        start.to ?? trimmed(units.of("pressure", units.pascal(300, "psi")), 3),
      from: "0",
      keeps: trimmed(units.delta("pressure", 2e5), 2),
    },
    { pressure: { value: ["pressure", "to", "from"], delta: ["keeps"] } },
  );
  const n = numbers(f);
  const si = (k: string) => units.si("pressure", n?.[k] ?? 0);
  const body: Schemas["BudgetInput"] | null = n && {
    bottle_l: n.bottle ?? 0,
    bottle_pa: si("pressure"),
    k: 294,
    system_l: n.system ?? 0,
    from_pa: si("from"),
    to_pa: si("to"),
    keeps_pa: si("keeps") - units.si("pressure", 0),
    air_pa: AIR,
  };
  const { data, error } = useBench("nitrogen", body, bench.nitrogen);
  const p = units.label("pressure");
  return (
    <>
      <Grid $min={150}>
        <Field
          label="Bottle, L of water"
          {...field("bottle")}
          inputMode="decimal"
        />
        <Field
          label={`In the bottle, ${p}`}
          {...field("pressure")}
          inputMode="decimal"
        />
        <Field label="System, L" {...field("system")} inputMode="decimal" />
        <Field
          label={`In the system now, ${p}`}
          {...field("from")}
          inputMode="decimal"
        />
        <Field label={`Wanted, ${p}`} {...field("to")} inputMode="decimal" />
        <Field
          label={`Regulator keeps, ${units.deltaLabel("pressure")}`}
          {...field("keeps")}
          inputMode="decimal"
        />
      </Grid>
      <Answer aria-live="polite">
        {n && data ? (
          <>
            <b>
              {data.reaches
                ? `${data.fills} ${data.fills === 1 ? "fill" : "fills"}`
                : `only ${trimmed(units.of("pressure", data.reached_pa), 3)} ${p}`}
            </b>
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

/** The system's volume from what the bottle lost. */
export function VolumeFromBottle({
  onUse,
}: {
  onUse?: (litres: number) => void;
}) {
  const units = useUnits();
  const [f, field] = useFields(
    {
      bottle: "10",
      before: "",
      after: "",
      digit: trimmed(units.delta("pressure", 1e5), 2),
      from: "0",
      to: "",
      sdigit: trimmed(units.delta("pressure", units.pascal(0.1, "psi")), 2),
    },
    {
      pressure: {
        value: ["before", "after", "from", "to"],
        delta: ["digit", "sdigit"],
      },
    },
  );
  const n = numbers(f);
  const si = (k: string) => units.si("pressure", n?.[k] ?? 0);
  const zero = units.si("pressure", 0);
  const body: Schemas["VolumeInput"] | null = n && {
    bottle_l: n.bottle ?? 0,
    bottle_before_pa: si("before"),
    bottle_after_pa: si("after"),
    bottle_digit_pa: si("digit") - zero,
    system_before_pa: si("from"),
    system_after_pa: si("to"),
    system_digit_pa: si("sdigit") - zero,
    k: 294,
    air_pa: AIR,
  };
  const { data, error } = useBench("volume", body, bench.volume);
  const [p, d] = [units.label("pressure"), units.deltaLabel("pressure")];
  return (
    <>
      <Grid $min={150}>
        <Field
          label="Bottle, L of water"
          {...field("bottle")}
          inputMode="decimal"
        />
        <Field
          label={`Bottle before, ${p}`}
          {...field("before")}
          inputMode="decimal"
        />
        <Field
          label={`Bottle after, ${p}`}
          {...field("after")}
          inputMode="decimal"
        />
        <Field
          label={`Bottle gauge step, ${d}`}
          {...field("digit")}
          inputMode="decimal"
        />
        <Field
          label={`System before, ${p}`}
          {...field("from")}
          inputMode="decimal"
        />
        <Field
          label={`System after, ${p}`}
          {...field("to")}
          inputMode="decimal"
        />
        <Field
          label={`System gauge step, ${d}`}
          {...field("sdigit")}
          inputMode="decimal"
        />
      </Grid>
      <Answer aria-live="polite">
        {n && data ? (
          <>
            <b>{trimmed(data.volume_l, 2)} L</b>
            <p>
              between {trimmed(data.low_l, 2)} and {trimmed(data.high_l, 2)} L,
              as far as both gauges can tell. Read them at rest.
            </p>
            {onUse && (
              <Button onPress={() => onUse(data.volume_l)}>
                Use it for this section
              </Button>
            )}
          </>
        ) : (
          <Wait
            error={n ? error : null}
            text="Read the bottle and the system before and after one fill, at rest."
          />
        )}
      </Answer>
    </>
  );
}

/** A re-test below the pressure of the find: how much slower it shows. */
export function Retest() {
  const units = useUnits();
  const [f, field] = useFields(
    { found: "", again: "" },
    { pressure: { value: ["found", "again"] } },
  );
  const n = numbers(f);
  const body: Schemas["RetestInput"] | null = n && {
    found_pa: units.si("pressure", n.found ?? 0),
    again_pa: units.si("pressure", n.again ?? 0),
    air_pa: AIR,
  };
  const { data, error } = useBench("retest", body, bench.retest);
  const p = units.label("pressure");
  return (
    <>
      <Grid $min={190}>
        <Field
          label={`Leak shown at, ${p}`}
          {...field("found")}
          inputMode="decimal"
        />
        <Field
          label={`Test again at, ${p}`}
          {...field("again")}
          inputMode="decimal"
        />
      </Grid>
      <Answer aria-live="polite">
        {n && data ? (
          <>
            <b>{trimmed(data.times_as_long, 2)} times as long</b>
            <p>
              {data.is_lower
                ? `There the same leak loses only ${trimmed(100 * data.laminar, 2)} % as fast if it is laminar, ${trimmed(100 * data.choked, 2)} % if it is choked. Some leaks open only at the higher pressure: test at least as high.`
                : "At least as high as the find: as it should be."}
            </p>
          </>
        ) : (
          <Wait
            error={n ? error : null}
            text="Flow goes with P² − air²: a lower re-test can hide what was found."
          />
        )}
      </Answer>
    </>
  );
}

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
export const Table = styled.ul`
  display: grid;
  grid-template-columns: repeat(auto-fill, minmax(150px, 1fr));
  gap: 2px 16px;
  font-family: var(--mono);
  span {
    color: var(--soft);
  }
`;
