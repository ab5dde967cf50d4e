import { useState, type FormEvent } from "react";
import { Refusal, type Schemas } from "../../api/client";
import { useWrite, writes } from "../../api/queries";
import { Field, Grid, Note, Pick, Primary } from "../../look/parts";
import { notANumber, trimmed, useUnits } from "../../units/units";
import { Import } from "./Import";
import { Closed, Form, number } from "./plan";

const TITLES: Record<string, string> = { "vacuum-decay": "Plan a decay test", "pull-down": "Record a pull-down" };

/** Plan of a decay or a pull-down. */
export function NewTest({ circuit, kind, onMade }: { circuit: Schemas["CircuitView"]; kind: string; onMade: (id: string) => void }) {
  const units = useUnits();
  const isDecay = kind === "vacuum-decay";
  const schools = units.meta.procedures.filter((p) => p.kind === "vacuum-decay");
  const vacuumUnit = units.chosen.vacuum;
  const show = (pa: number | null | undefined) => (pa == null ? "" : trimmed(units.of("vacuum", pa)).replace("−", "-"));
  const fromSchool = (code: string) => {
    const s = schools.find((x) => x.code === code);
    return { level: show(s?.pressure_pa), minutes: s ? String(s.time_s / 60) : "", start: show(s?.start_max_pa) };
  };
  const [school, setSchool] = useState(schools[0]?.code ?? "own");
  const [form, setForm] = useState(() => fromSchool(schools[0]?.code ?? ""));
  const [evacuated, setEvacuated] = useState("");
  const [source, setSource] = useState("");
  const [gauge, setGauge] = useState({ resolution: "1", range: "" });
  const [problem, setProblem] = useState<string | null>(null);
  const save = useWrite(writes.test(circuit.id, { pressure: units.chosen.pressure }));
  const refusal = save.error instanceof Refusal ? save.error : null;
  const wrong = (...f: string[]) => (refusal?.field && f.includes(refusal.field) ? refusal.message : null);
  const chosen = schools.find((s) => s.code === school);
  const pick = (code: string) => {
    setSchool(code);
    if (code !== "own") setForm(fromSchool(code));
  };
  const submit = (e: FormEvent) => {
    e.preventDefault();
    const bad = notANumber([["Limit", form.level], ["After", form.minutes], ["Start at most", form.start], ["Under vacuum before", evacuated], ["Gauge step", gauge.resolution], ["Gauge range", gauge.range]]);
    setProblem(bad);
    if (bad) return;
    const si = (v: number | null) => (v === null ? null : units.si("vacuum", v));
    const plan: Schemas["Plan"] = {
      school, source: source || (chosen ? `${chosen.source}${chosen.is_verified ? "" : ", unverified"}` : "habit, unverified"),
      ...(isDecay && { level_pa: si(number(form.level)), at_s: (number(form.minutes) ?? 0) * 60, start_max_pa: si(number(form.start)), evacuated_s: evacuated ? Number(evacuated) * 60 : null }),
    };
    const channel: Schemas["ChannelInput"] = { name: "Vacuum", quantity: "absolute_pressure", unit: vacuumUnit, resolution: number(gauge.resolution), range: number(gauge.range), position: "far" };
    save.mutate({ kind, plan, channels: [channel] }, { onSuccess: (made) => onMade(made.id) });
  };
  return (
    <section>
      <Form onSubmit={submit}>
        <h2>{TITLES[kind] ?? "Plan a test"}</h2>
        {isDecay && (
          <Pick
            label="Procedure" value={school} onChange={pick} options={[...schools.map((s) => ({ id: s.code, text: s.title })), { id: "own", text: "The maker’s or my own" }]}
            hint={chosen ? `${chosen.gives_up ? `Gives up: ${chosen.gives_up}. ` : ""}From ${chosen.source}, ${chosen.is_verified ? "checked" : "unverified"} (version ${chosen.version}).` : "Say below where it comes from."}
          />
        )}
        <Grid $min={150}>
          {isDecay && <Field label={`Limit, ${units.label("vacuum")}`} value={form.level} onChange={(level) => setForm({ ...form, level })} inputMode="decimal" error={wrong("level_pa")} />}
          {isDecay && <Field label="After, min" value={form.minutes} onChange={(minutes) => setForm({ ...form, minutes })} inputMode="decimal" error={wrong("at_s")} />}
          {isDecay && <Field label={`Start at most, ${units.label("vacuum")}`} value={form.start} onChange={(start) => setForm({ ...form, start })} inputMode="decimal" hint="if the rule has one" error={wrong("start_max_pa")} />}
          {isDecay && <Field label="Under vacuum before, min" value={evacuated} onChange={setEvacuated} inputMode="decimal" hint="tells oil and rubber from a leak" error={wrong("evacuated_s")} />}
          {isDecay && <Field label="Limit comes from" value={source} onChange={setSource} placeholder="maker’s page, code, habit" />}
        </Grid>
        <Grid $min={150}>
          <Field label={`Gauge step, ${units.label("vacuum")}`} value={gauge.resolution} onChange={(resolution) => setGauge({ ...gauge, resolution })} inputMode="decimal" error={wrong("resolution")} />
          <Field label={`Gauge range, ${units.label("vacuum")}`} value={gauge.range} onChange={(range) => setGauge({ ...gauge, range })} inputMode="decimal" hint="top of the scale" error={wrong("range")} />
        </Grid>
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
