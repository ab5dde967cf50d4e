import { figure } from "../../units/typed";
import { useState, type FormEvent } from "react";
import { Refusal, type Schemas } from "../../api/client";
import { useKit, useWrite, writes } from "../../api/queries";
import { Field, Grid, Note, Pick, Primary, Prompt } from "../../look/parts";
import { notANumber, trimmed, useUnits } from "../../units/units";
import { useSwitch } from "../../units/switch";
import { ConfirmStep, Deadly } from "./Cautions";
import { Import } from "./Import";
import { InUse } from "./InUse";
import { KitTicks } from "./KitTicks";
import { Closed, Form, number, schoolsOf, worth } from "./plan";

const TITLES: Record<string, string> = {
  "vacuum-decay": "Plan a decay test",
  "pull-down": "Plan the evacuation",
  "rig-check": "Check the rig alone",
};
const PLACES = [
  { id: "far", text: "far from the pump" },
  { id: "near_pump", text: "near the pump" },
];
const YES = [
  { id: "no", text: "no" },
  { id: "yes", text: "yes" },
];

/** Whether valve cores are in the way, as the register of ports has it; empty: nobody kept one. */
function coresOf(circuit: Schemas["CircuitView"]): "in" | "out" | "" {
  const { is_kept, ports } = circuit.finish.ports;
  if (!is_kept) return "";
  const isIn = (ports.ports ?? []).some(
    (p) => p.core !== "out" && p.core !== "none",
  );
  return isIn ? "in" : "out";
}

/** Plan of an evacuation, a decay, or a check of the rig. */
export function NewTest({
  circuit,
  kind,
  onMade,
}: {
  circuit: Schemas["CircuitView"];
  kind: Schemas["Kind"];
  onMade: (id: string) => void;
}) {
  const units = useUnits();
  const kit = useKit().data?.items.filter((i) => !i.doc.is_retired) ?? [];
  const [isDecay, isPull, isRig] = [
    kind === "vacuum-decay",
    kind === "pull-down",
    kind === "rig-check",
  ];
  const { all: schools, first } = schoolsOf(units.meta, kind);
  const v = units.label("vacuum");
  const show = (pa: number | null | undefined) =>
    pa == null ? "" : trimmed(units.of("vacuum", pa)).replace("−", "-");
  const fromSchool = (code: string) => {
    const s = schools.find((x) => x.code === code);
    return {
      level: show(s?.pressure_pa),
      minutes: s ? String(s.time_s / 60) : "",
      start: show(s?.start_max_pa),
      targets: (s?.targets_pa ?? []).map(show).join(", "),
    };
  };
  const [school, setSchool] = useState(first?.code ?? "own");
  const [form, setForm] = useState(() => fromSchool(first?.code ?? ""));
  const lasted = kind === "vacuum-decay" ? (circuit.evacuated_s ?? 0) : 0;
  const known = lasted >= 60 ? lasted : null;
  const [evacuated, setEvacuated] = useState(
    known == null ? "" : String(Math.round(known / 60)),
  );
  const [source, setSource] = useState("");
  const [gauge, setGauge] = useState({
    id: "",
    resolution: "1",
    range: "",
    // Where it sits decides what it shows: that is said, never taken for granted.
    place: "" as Schemas["Position"] | "",
    second: "",
    probe: "no",
  });
  const [rig, setRig] = useState({
    id: "",
    hoses: "out",
    // Where the register of ports has them; before anybody kept one, it is asked.
    cores: coresOf(circuit),
    tool: "yes",
    two: "no",
    part: "hoses" as Schemas["RigPart"],
  });
  const [since, setSince] = useState({ is: "", what: "" });
  const [also, setAlso] = useState<string[]>([]);
  useSwitch("vacuum", ({ value, delta, list }) => {
    setForm((f) => ({
      ...f,
      level: value(f.level),
      start: value(f.start),
      targets: list(f.targets),
    }));
    setGauge((g) => ({
      ...g,
      resolution: delta(g.resolution),
      range: value(g.range),
    }));
  });
  const [problem, setProblem] = useState<string | null>(null);
  const save = useWrite(
    writes.test(circuit.id, { pressure: units.chosen.pressure }),
  );
  const refusal = save.error instanceof Refusal ? save.error : null;
  const chosen = schools.find((s) => s.code === school);
  const gauges = kit.filter((i) => i.doc.kind === "vacuum_gauge");
  const rigs = kit.filter((i) => i.doc.kind === "rig");
  const gaugeId = gauge.id || (gauges[0]?.id ?? "hand");
  const rigId = rig.id || (rigs[0]?.id ?? "none");
  const warning = rigs.find((i) => i.id === rigId)?.warning;
  const rigParts = [
    rigId,
    ...(rigs.find((i) => i.id === rigId)?.doc.parts ?? []),
  ];
  const pick = (code: string) => {
    setSchool(code);
    if (code !== "own") setForm(fromSchool(code));
  };
  const channelOf = (
    id: string,
    name: string,
    position: Schemas["Position"] | null,
  ): Schemas["ChannelInput"] => {
    const d = gauges.find((i) => i.id === id)?.doc;
    const own = d && {
      unit: d.unit || units.chosen.vacuum,
      resolution: d.resolution ?? null,
      range: d.range ?? null,
      accuracy: d.accuracy ?? null,
      principle: d.principle ?? null,
      calibration_due: d.calibration_due ?? null,
    };
    return {
      name: d?.name ?? name,
      quantity: "absolute_pressure",
      position,
      ...(own ?? {
        unit: units.chosen.vacuum,
        resolution: number(gauge.resolution),
        range: number(gauge.range),
      }),
    };
  };
  const submit = (e: FormEvent) => {
    e.preventDefault();
    const targets = form.targets
      .split(",")
      .map((t) => t.trim())
      .filter(Boolean);
    const bad =
      notANumber([
        ["Limit", form.level],
        ["After", form.minutes],
        ["Start at most", form.start],
        ["Vacuum before", evacuated],
        ["Gauge step", gauge.resolution],
        ["Gauge range", gauge.range],
        ...targets.map((t): [string, string] => ["Target", t]),
      ]) ??
      (isPull && !targets.length
        ? "Write down the target, or one for each pull with commas between."
        : null) ??
      (!isRig && !gauge.place ? "Say where the gauge sits." : null) ??
      (isPull && rigId !== "none" && !rig.cores
        ? "Say whether the valve cores are out: they decide how fast it pumps."
        : null);
    setProblem(bad);
    if (bad) return;
    const si = (x: number | null) =>
      x === null ? null : units.si("vacuum", x);
    const auto = gauges.find((i) => i.id === gaugeId)?.doc.auto_off_min;
    const uses = [gaugeId, gauge.second].filter((id) =>
      gauges.some((g) => g.id === id),
    );
    const withRig = rigId !== "none" && (isPull || rig.hoses === "in");
    const opened =
      since.is === "yes"
        ? since.what
            .split(",")
            .map((x) => x.trim())
            .filter(Boolean)
        : [];
    const plan: Schemas["Plan"] = {
      school: isRig ? null : school,
      source: isRig ? null : source.trim() || null,
      kit: [...uses, ...also],
      auto_off_s: auto ? auto * 60 : null,
      hoses_in: isDecay && rig.hoses === "in",
      changed: isDecay && since.is ? opened : null,
      rig: withRig
        ? {
            rig_id: rigId,
            side_by_side: rig.two === "yes",
            core_tool: rig.tool === "yes",
            core_in: rig.cores === "in",
            tees: 0,
          }
        : null,
      part: isRig ? rig.part : null,
      stages: isPull
        ? targets.map((t, i) => ({
            target_pa: units.si("vacuum", figure(t)),
            break_pa:
              i + 1 < targets.length ? units.pascal(16.7, "psia") : null,
            dwell_s: i + 1 < targets.length ? 300 : 0,
          }))
        : [],
      evacuated_s: evacuated ? figure(evacuated) * 60 : null,
      ...(isDecay && {
        level_pa: si(number(form.level)),
        at_s: (number(form.minutes) ?? 0) * 60,
        start_max_pa: si(number(form.start)),
      }),
    };
    const rigPlace = rig.part === "pump" ? "near_pump" : "far";
    const channels = [
      channelOf(gaugeId, "Vacuum", isRig ? rigPlace : gauge.place || null),
    ];
    if (gauge.second)
      channels.push(
        channelOf(
          gauge.second,
          "Second gauge",
          gauge.place === "far" ? "near_pump" : "far",
        ),
      );
    if (gauge.probe === "yes")
      channels.push({
        name: "Coldest place",
        quantity: "temperature",
        unit: units.chosen.temperature,
        resolution: 0.1,
        position: "indoor",
      });
    save.mutate(
      { kind, plan, channels },
      { onSuccess: (made) => onMade(made.id) },
    );
  };
  const evacuate = circuit.stages.find((s) => s.code === "evacuate");
  const lock = isPull
    ? evacuate?.step_kinds.find((k) => k.code === "compressor_locked_out")
    : undefined;
  const isLocked = evacuate?.steps.some(
    (s) => s.step === "compressor_locked_out",
  );
  const deadly = isPull
    ? (evacuate?.cautions ?? []).filter((c) => c.can_kill).map((c) => c.words)
    : [];
  const gaugeOptions = [
    ...gauges.map((i) => ({ id: i.id, text: i.doc.name ?? "" })),
    { id: "hand", text: "another one" },
  ];
  return (
    <section>
      <Form
        refusal={refusal}
        also={{ "stages.1": "stages.0", "stages.2": "stages.0" }}
        onSubmit={submit}
      >
        <h2>{TITLES[kind] ?? "Plan a test"}</h2>
        {isPull && circuit.pressure_left && (
          <Note $kind="wrong" role="alert">
            {circuit.pressure_left} The pump waits until it is.
          </Note>
        )}
        {isPull && lock && !isLocked && (
          <Prompt aria-label="Before the vacuum">
            <Deadly words={deadly} />
            <ConfirmStep
              circuit={circuit.id}
              step={lock}
              yes="Yes, locked out"
            />
          </Prompt>
        )}
        {!isRig && (
          <Pick
            label="Procedure"
            value={school}
            onChange={pick}
            options={[
              ...schools.map((s) => ({ id: s.code, text: s.title })),
              { id: "own", text: "The maker’s or my own" },
            ]}
            hint={worth(chosen)}
          />
        )}
        <Grid $min={150}>
          {isRig && (
            <Pick
              label="What is checked"
              value={rig.part}
              onChange={(part) => setRig({ ...rig, part })}
              options={[
                { id: "pump", text: "the pump, blanked off" },
                {
                  id: "hoses",
                  text: "hoses and tools, shut off from the pump",
                },
              ]}
            />
          )}
          {isPull && (
            <Field
              label={`Targets, ${v}`}
              value={form.targets}
              onChange={(targets) => setForm({ ...form, targets })}
              hint="several: a nitrogen break between"
              name="stages.0"
            />
          )}
          {isDecay && (
            <Field
              label={`Limit, ${v}`}
              value={form.level}
              onChange={(level) => setForm({ ...form, level })}
              inputMode="decimal"
              name="level_pa"
            />
          )}
          {isDecay && (
            <Field
              label="After, min"
              value={form.minutes}
              onChange={(minutes) => setForm({ ...form, minutes })}
              inputMode="decimal"
              name="at_s"
            />
          )}
          {isDecay && (
            <Field
              label={`Start at most, ${v}`}
              value={form.start}
              onChange={(start) => setForm({ ...form, start })}
              inputMode="decimal"
              hint="if the rule has one"
              name="start_max_pa"
            />
          )}
          {!isPull && (
            <Field
              label="Vacuum before, min"
              value={evacuated}
              onChange={setEvacuated}
              inputMode="decimal"
              hint={
                known == null
                  ? "tells oil and rubber from a leak"
                  : "as the last pull lasted"
              }
              name="evacuated_s"
            />
          )}
          {!isRig && (
            <Field
              label={isPull ? "Target comes from" : "Limit comes from"}
              value={source}
              onChange={setSource}
              placeholder="maker’s page, code, habit"
            />
          )}
        </Grid>
        <Grid $min={150}>
          <Pick
            label="Vacuum gauge"
            value={gaugeId}
            onChange={(id) => setGauge({ ...gauge, id })}
            options={gaugeOptions}
            hint={gauges.length ? undefined : "the kit has none yet"}
          />
          {gaugeId === "hand" && (
            <Field
              label={`Gauge step, ${v}`}
              value={gauge.resolution}
              onChange={(resolution) => setGauge({ ...gauge, resolution })}
              inputMode="decimal"
              name="resolution"
            />
          )}
          {gaugeId === "hand" && (
            <Field
              label={`Gauge range, ${v}`}
              value={gauge.range}
              onChange={(range) => setGauge({ ...gauge, range })}
              inputMode="decimal"
              hint="top of the scale"
              name="range"
            />
          )}
          {!isRig && (
            <Pick
              label="It sits"
              value={gauge.place}
              onChange={(place) => setGauge({ ...gauge, place })}
              options={PLACES}
              hint={
                gauge.place !== "near_pump"
                  ? undefined
                  : "the far end reads higher and is what counts"
              }
            />
          )}
          {!isRig && gauges.length > 1 && (
            <Pick
              label="Second gauge"
              value={gauge.second || "none"}
              onChange={(second) =>
                setGauge({ ...gauge, second: second === "none" ? "" : second })
              }
              options={[
                { id: "none", text: "none" },
                ...gaugeOptions.filter(
                  (o) => o.id !== gaugeId && o.id !== "hand",
                ),
              ]}
            />
          )}
          {!isRig && (
            <Pick
              label="Temperature probe"
              value={gauge.probe}
              onChange={(probe) => setGauge({ ...gauge, probe })}
              options={YES}
              hint="at the coldest place: tells water"
            />
          )}
        </Grid>
        {isPull && (
          <Grid $min={150}>
            <Pick
              label="Rig"
              value={rigId}
              onChange={(id) => setRig({ ...rig, id })}
              options={[
                ...rigs.map((i) => ({ id: i.id, text: i.doc.name ?? "" })),
                { id: "none", text: "not in the kit" },
              ]}
            />
            <Pick
              label="Valve cores"
              value={rig.cores}
              onChange={(cores) => setRig({ ...rig, cores })}
              options={[
                { id: "out", text: "out" },
                { id: "in", text: "left in" },
              ]}
            />
            <Pick
              label="Through core tools"
              value={rig.tool}
              onChange={(tool) => setRig({ ...rig, tool })}
              options={YES}
            />
            <Pick
              label="Hoses on two ports"
              value={rig.two}
              onChange={(two) => setRig({ ...rig, two })}
              options={YES}
            />
          </Grid>
        )}
        {isDecay && (
          <Grid $min={190}>
            <Pick
              label="Pump hoses during the test"
              value={rig.hoses}
              onChange={(hoses) => setRig({ ...rig, hoses })}
              options={[
                { id: "out", text: "shut out at the system" },
                { id: "in", text: "stay in it" },
              ]}
              hint={
                rig.hoses === "in"
                  ? "shut the valve at the pump, then stop it; what they give off counts as the system’s, unless their own check tells it"
                  : undefined
              }
            />
            {rig.hoses === "in" && (
              <Pick
                label="Which rig"
                value={rigId}
                onChange={(id) => setRig({ ...rig, id })}
                options={[
                  ...rigs.map((i) => ({ id: i.id, text: i.doc.name ?? "" })),
                  { id: "none", text: "not in the kit" },
                ]}
              />
            )}
            <Pick
              label="Opened or fitted since the hold"
              value={since.is}
              onChange={(is) => setSince({ ...since, is })}
              options={[
                { id: "none", text: "nothing" },
                { id: "yes", text: "something" },
              ]}
              hint="a hold says nothing about what came after it"
            />
            {since.is === "yes" && (
              <Field
                label="What, with commas between"
                value={since.what}
                onChange={(what) => setSince({ ...since, what })}
                placeholder="core tool, gauge tee"
              />
            )}
          </Grid>
        )}
        <KitTicks
          legend="Also used"
          items={kit.filter((i) =>
            ["core_tool", "bottle", "probe"].includes(i.doc.kind ?? ""),
          )}
          chosen={also}
          onChange={setAlso}
        />
        <InUse
          circuit={circuit.id}
          ids={[
            gaugeId,
            gauge.second,
            ...also,
            ...(isPull || (isDecay && rig.hoses === "in") ? rigParts : []),
          ]}
        />
        {(isPull || (isDecay && rig.hoses === "in")) && warning && (
          <Note>{warning}</Note>
        )}
        {(problem ?? refusal) && (
          <Note $kind="wrong" role="alert">
            {problem ?? refusal?.message}
          </Note>
        )}
        <span>
          <Primary type="submit" isDisabled={save.isPending}>
            Open the test
          </Primary>
        </span>
      </Form>
      <Closed>
        <summary>Or take a file: a data package or a logger’s CSV</summary>
        <Import circuit={circuit.id} kind={kind} onMade={onMade} />
      </Closed>
    </section>
  );
}
