import { useState, type FormEvent } from "react";
import styled from "styled-components";
import { Refusal, type Schemas } from "../../api/client";
import { useWrite, writes } from "../../api/queries";
import { Field, Grid, Note, Pick, Primary } from "../../look/parts";
import { notANumber, trimmed, useUnits } from "../../units/units";
import { Import } from "./Import";

const Form = styled.form`
  display: grid;
  gap: 14px;
`;
const Ceiling = styled.p`
  font-size: 1.1rem;
  b { font-size: 1.45rem; font-family: var(--mono); }
`;
const Closed = styled.details`
  border-top: 1px solid var(--line);
  summary { cursor: pointer; min-height: 48px; padding: 12px 0; font-weight: 600; }
`;

const TITLES: Record<string, string> = { "pressure-hold": "Plan a pressure hold", "vacuum-decay": "Plan a decay test", "pull-down": "Record a pull-down" };

interface Probe { name: string; position: string; share: string }
const PROBES: Probe[] = [
  { name: "Pipe probe", position: "line", share: "" }, { name: "Indoor probe", position: "indoor", share: "" }, { name: "Outdoor probe", position: "outdoor", share: "" },
];
const PLACES = [{ id: "line", text: "line set" }, { id: "indoor", text: "indoor coil" }, { id: "outdoor", text: "outdoor unit" }, { id: "high", text: "high side" }, { id: "low", text: "low side" }, { id: "ambient", text: "the air around" }];

/** A typed number, or null when the field is empty. What is neither has been refused before. */
const number = (text: string) => (text.trim() === "" ? null : Number(text));

/** Plan of a hold, a decay or a pull-down, with the lowest plate in view. */
export function NewTest({ circuit, kind, onMade }: { circuit: Schemas["CircuitView"]; kind: string; onMade: (id: string) => void }) {
  const units = useUnits();
  const { meta } = units;
  const isHold = kind === "pressure-hold";
  const isDecay = kind === "vacuum-decay";
  const schools = isHold ? meta.hold_schools : meta.decay_schools;
  const vacuumUnit = units.chosen.vacuum;
  const ceiling = circuit.ceiling_pa ?? null;
  const show = (k: "pressure" | "vacuum", pa: number | null | undefined) => (pa == null ? "" : trimmed(units.of(k, pa)).replace("−", "-"));
  const fromSchool = (code: string) => {
    const s = schools.find((x) => x.code === code);
    const pressure = isHold ? (s?.pressure_pa ?? (ceiling ?? 0) * 0.75) : s?.pressure_pa;
    return { level: show(isHold ? "pressure" : "vacuum", isHold && ceiling ? Math.min(pressure ?? 0, ceiling) : pressure), minutes: s ? String(s.time_s / 60) : "", start: show("vacuum", s?.start_max_pa) };
  };
  const [school, setSchool] = useState(schools[0]?.code ?? "own");
  const [form, setForm] = useState(() => fromSchool(schools[0]?.code ?? ""));
  const [drop, setDrop] = useState("");
  const [evacuated, setEvacuated] = useState("");
  const [altitude, setAltitude] = useState("");
  const [source, setSource] = useState("");
  const [gauge, setGauge] = useState({ resolution: isHold ? "0.1" : "1", range: "" });
  const [probes, setProbes] = useState<Probe[]>(PROBES.slice(0, 1));
  const [problem, setProblem] = useState<string | null>(null);
  const save = useWrite(writes.test(circuit.id));
  const refusal = save.error instanceof Refusal ? save.error : null;
  const wrong = (...f: string[]) => (refusal?.field && f.includes(refusal.field) ? refusal.message : null);
  const change = (i: number, part: Partial<Probe>) => setProbes(probes.map((p, k) => (k === i ? { ...p, ...part } : p)));
  const pick = (code: string) => {
    setSchool(code);
    if (code !== "own") setForm(fromSchool(code));
  };
  const submit = (e: FormEvent) => {
    e.preventDefault();
    const bad = notANumber([
      [isHold ? "Test pressure" : "Limit", form.level], [isHold ? "Planned hold" : "After", form.minutes], ["Start at most", form.start], ["Allowed drop", drop],
      ["Under vacuum before", evacuated], ["Altitude", altitude], ["Gauge step", gauge.resolution], ["Gauge range", gauge.range],
      ...probes.map((p): [string, string] => [`Share of ${p.name}`, p.share]),
    ]);
    setProblem(bad);
    if (bad) return;
    const minutes = number(form.minutes);
    const level = number(form.level);
    const si = (k: "pressure" | "vacuum", v: number | null) => (v === null ? null : units.si(k, v));
    const allowed = number(drop);
    const plan: Schemas["Plan"] = {
      school, source: source || "habit, unverified", altitude_m: number(altitude),
      ...(isHold && { test_pa: si("pressure", level), planned_s: minutes === null ? null : minutes * 60, ...(allowed !== null && { drop_pa: allowed * (units.si("pressure", 1) - units.si("pressure", 0)), over_s: (minutes ?? 0) * 60 }) }),
      ...(isDecay && { level_pa: si("vacuum", level), at_s: (minutes ?? 0) * 60, start_max_pa: si("vacuum", number(form.start)), evacuated_s: evacuated ? Number(evacuated) * 60 : null }),
    };
    const range = number(gauge.range);
    const main: Schemas["ChannelInput"] = isHold
      ? { name: "Pressure", quantity: "gauge_pressure", unit: units.chosen.pressure, resolution: number(gauge.resolution), range }
      : { name: "Vacuum", quantity: "absolute_pressure", unit: vacuumUnit, resolution: number(gauge.resolution), range, position: "far" };
    const temperatures = probes.map((p): Schemas["ChannelInput"] => {
      const share = number(p.share);
      return { name: p.name, quantity: "temperature", unit: units.chosen.temperature, resolution: 0.1, position: p.position, volume_share: share === null ? null : share / 100 };
    });
    save.mutate({ kind, plan, channels: isHold ? [main, ...temperatures] : [main] }, { onSuccess: (made) => onMade(made.id) });
  };
  return (
    <section>
      <Form onSubmit={submit}>
        <h2>{TITLES[kind] ?? "Plan a test"}</h2>
        {isHold && <Ceiling>Lowest plate: {ceiling === null ? "none entered yet" : <><b>{trimmed(units.of("pressure", ceiling))}</b> {units.label("pressure")}, {circuit.plates.find((p) => p.design_pa === ceiling)?.part}</>}</Ceiling>}
        {kind !== "pull-down" && (
          <Pick
            label="Procedure" value={school} onChange={pick} options={[...schools.map((s) => ({ id: s.code, text: s.title })), { id: "own", text: "The maker’s or my own" }]}
            hint={schools.find((s) => s.code === school) ? `Gives up: ${schools.find((s) => s.code === school)?.gives_up ?? ""}. Common practice, unverified (list ${meta.schools_version}).` : "Say below where it comes from."}
          />
        )}
        <Grid $min={150}>
          {isHold && <Field label={`Test pressure, ${units.label("pressure")}`} value={form.level} onChange={(level) => setForm({ ...form, level })} inputMode="decimal" error={wrong("test_pa")} />}
          {isHold && <Field label="Planned hold, min" value={form.minutes} onChange={(minutes) => setForm({ ...form, minutes })} inputMode="decimal" error={wrong("planned_s")} />}
          {isHold && <Field label={`Allowed drop, ${units.deltaLabel("pressure")}`} value={drop} onChange={setDrop} inputMode="decimal" hint="empty: 0.3 % of absolute pressure" error={wrong("drop_pa", "over_s")} />}
          {isDecay && <Field label={`Limit, ${units.label("vacuum")}`} value={form.level} onChange={(level) => setForm({ ...form, level })} inputMode="decimal" error={wrong("level_pa")} />}
          {isDecay && <Field label="After, min" value={form.minutes} onChange={(minutes) => setForm({ ...form, minutes })} inputMode="decimal" error={wrong("at_s")} />}
          {isDecay && <Field label={`Start at most, ${units.label("vacuum")}`} value={form.start} onChange={(start) => setForm({ ...form, start })} inputMode="decimal" hint="if the rule has one" error={wrong("start_max_pa")} />}
          {isDecay && <Field label="Under vacuum before, min" value={evacuated} onChange={setEvacuated} inputMode="decimal" hint="tells oil and rubber from a leak" error={wrong("evacuated_s")} />}
          {kind !== "pull-down" && <Field label="Limit comes from" value={source} onChange={setSource} placeholder="maker’s page, code, habit" />}
        </Grid>
        <Grid $min={150}>
          <Field label={`Gauge step, ${isHold ? units.deltaLabel("pressure") : units.label("vacuum")}`} value={gauge.resolution} onChange={(resolution) => setGauge({ ...gauge, resolution })} inputMode="decimal" error={wrong("resolution")} />
          <Field label={`Gauge range, ${isHold ? units.label("pressure") : units.label("vacuum")}`} value={gauge.range} onChange={(range) => setGauge({ ...gauge, range })} inputMode="decimal" hint="top of the scale" error={wrong("range")} />
          {isHold && <Pick label="Temperature probes" value={String(probes.length)} onChange={(n) => setProbes(PROBES.slice(0, Number(n)))} options={["none", "one", "two", "three"].map((text, i) => ({ id: String(i), text }))} hint={probes.length ? "on different parts" : "without one it stays undecided"} />}
          {isHold && <Field label="Altitude, m" value={altitude} onChange={setAltitude} inputMode="decimal" hint="if well above the sea" error={wrong("altitude_m")} />}
        </Grid>
        {isHold && probes.length > 1 && probes.map((p, i) => (
          <Grid $min={150} key={i}>
            <Field label={`Name of probe ${i + 1}`} value={p.name} onChange={(name) => change(i, { name })} error={wrong("name", "channels")} />
            <Pick label="Sits on" value={p.position} onChange={(position) => change(i, { position })} options={PLACES} />
            <Field label="Share of the volume, %" value={p.share} onChange={(share) => change(i, { share })} inputMode="decimal" hint="empty: equal shares" error={wrong("volume_share")} />
          </Grid>
        ))}
        {(problem ?? refusal) && <Note $kind="wrong" role="alert">{problem ?? refusal?.message}</Note>}
        <span><Primary type="submit" isDisabled={save.isPending}>Open the test</Primary></span>
      </Form>
      <Closed>
        <summary>Or take a file: a data package or a logger’s CSV</summary>
        <Import circuit={circuit.id} kind={kind} onMade={onMade} />
      </Closed>
    </section>
  );
}
