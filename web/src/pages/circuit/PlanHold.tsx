import { figure } from "../../units/typed";
import { useState, type FormEvent } from "react";
import { Link } from "react-router";
import { Refusal, type Schemas } from "../../api/client";
import { bench, useBench, useKit, useWrite, writes } from "../../api/queries";
import { Field, Grid, Note, Pick, Primary } from "../../look/parts";
import { notANumber, trimmed, useUnits } from "../../units/units";
import { useSwitch } from "../../units/switch";
import { Enough, Nitrogen } from "../bench/calculators";
import { Import } from "./Import";
import { InUse } from "./InUse";
import { STEPS } from "./firstHold";
import { KitTicks } from "./KitTicks";
import { Big, Closed, Form, number, schoolsOf, worth } from "./plan";
import { SITS, type Sits } from "./sits";

interface Probe {
  name: string;
  position: Schemas["Position"];
  share: string;
}
const PROBES: Probe[] = [
  { name: "Pipe probe", position: "line", share: "" },
  { name: "Indoor probe", position: "indoor", share: "" },
  { name: "Outdoor probe", position: "outdoor", share: "" },
];
const SKIES: { id: Schemas["Sky"] | "unsaid"; text: string }[] = [
  { id: "unsaid", text: "not said" },
  { id: "indoors", text: "indoors" },
  { id: "overcast", text: "overcast" },
  { id: "sun_cloud", text: "sun and cloud" },
  { id: "windy", text: "windy" },
];
const PLACES = [
  { id: "line", text: "line set" },
  { id: "indoor", text: "indoor coil" },
  { id: "outdoor", text: "outdoor unit" },
  { id: "high", text: "high side" },
  { id: "low", text: "low side" },
  { id: "ambient", text: "the air around" },
];

/** A re-test below the pressure that showed the leak: allowed, but said, with the hold that would be worth as much. */
function LowerRetest({
  again,
  planned,
}: {
  again: Schemas["AgainView"] | undefined;
  planned: number | null;
}) {
  const units = useUnits();
  const found = again?.at_least_pa ?? 0;
  const { data } = useBench(
    "retest",
    found > 0 && planned !== null
      ? { found_pa: found, again_pa: planned, air_pa: 101_325 }
      : null,
    bench.retest,
  );
  if (!again || planned === null || !data?.is_lower) return null;
  return (
    <Note>
      Below the {trimmed(units.of("pressure", found), 3)}{" "}
      {units.label("pressure")} that showed the leak: it would lose only{" "}
      {trimmed(Number((100 * data.laminar).toPrecision(2)))} to{" "}
      {trimmed(Number((100 * data.choked).toPrecision(2)))} % as fast here, so
      hold {trimmed(Number(data.times_as_long.toPrecision(2)))} times as long.
      It does not count as the re-test.
    </Note>
  );
}

/** A hold that nobody watches, min. */
const LONG = 240;

/** Plan of a pressure hold, with what binds in view, the bottle and the time it takes within reach. */
export function PlanHold({
  circuit,
  onMade,
  onLeakBy,
}: {
  circuit: Schemas["CircuitView"];
  onMade: (id: string) => void;
  onLeakBy: () => void;
}) {
  const units = useUnits();
  const { all: schools, first } = schoolsOf(units.meta, "pressure-hold");
  const sections = circuit.survey.sections;
  const [section, setSection] = useState(
    (sections.find((s) => s.is_tested) ?? sections[0])?.name ?? "",
  );
  const here = sections.find((s) => s.name === section);
  const ceiling = here?.ceiling_pa ?? null;
  const show = (pa: number) =>
    trimmed(units.of("pressure", pa)).replace("−", "-");
  const fromSchool = (code: string, of: string) => {
    const s = schools.find((x) => x.code === code);
    const pa =
      sections
        .find((x) => x.name === of)
        ?.begin.find((b) => b.procedure === code)?.pa ?? s?.pressure_pa;
    return {
      level: pa ? show(pa) : "",
      minutes: s ? String(s.time_s / 60) : "",
    };
  };
  const [school, setSchool] = useState(first?.code ?? "own");
  const [form, setForm] = useState(() =>
    fromSchool(first?.code ?? "", section),
  );
  const [drop, setDrop] = useState("");
  const [air, setAir] = useState({ by: "none", value: "" });
  const [gas, setGas] = useState({ inside: "nitrogen", tracer: "" });
  const [source, setSource] = useState("");
  const [gauge, setGauge] = useState({
    id: "",
    resolution: STEPS[units.chosen.pressure] ?? "0.1",
    range: "",
    sides: "one",
    reference: "vented" as Schemas["Reference"],
    due: "",
    fittings: "",
    regulator: "",
    relief: "",
    pressureSwitch: "",
    sensor: "",
    warmer: "",
  });
  const [probes, setProbes] = useState<Probe[]>(PROBES.slice(0, 1));
  const [sits, setSits] = useState<Sits>("unsaid");
  const [sky, setSky] = useState<(typeof SKIES)[number]["id"]>("unsaid");
  const [remind, setRemind] = useState({ every: "", off: "", hose: "" });
  const [strength, setStrength] = useState({
    code: "",
    edition: "",
    factor: "",
    reason: "",
  });
  useSwitch("pressure", ({ value, delta }) => {
    setForm((f) => ({ ...f, level: value(f.level) }));
    setDrop(delta);
    setGas((g) => ({ ...g, tracer: delta(g.tracer) }));
    setGauge((g) => ({
      ...g,
      resolution: delta(g.resolution),
      range: value(g.range),
      fittings: value(g.fittings),
      regulator: value(g.regulator),
      relief: value(g.relief),
      pressureSwitch: value(g.pressureSwitch),
      sensor: value(g.sensor),
    }));
  });
  useSwitch("temperature", ({ delta }) =>
    setGauge((g) => ({ ...g, warmer: delta(g.warmer) })),
  );
  const [problem, setProblem] = useState<string | null>(null);
  const save = useWrite(
    writes.test(circuit.id, { pressure: units.chosen.pressure }),
  );
  const refusal = save.error instanceof Refusal ? save.error : null;
  const change = (i: number, part: Partial<Probe>) =>
    setProbes(probes.map((p, k) => (k === i ? { ...p, ...part } : p)));
  const chosen = schools.find((s) => s.code === school);
  const items = (useKit().data?.items ?? []).filter((i) => !i.doc.is_retired);
  const kit = items.filter((i) => i.doc.kind === "pressure_gauge");
  const [also, setAlso] = useState<string[]>([]);
  /** A gauge of the kit brings its figures along, in the units on screen. */
  const fromKit = (id: string) => {
    const d = kit.find((i) => i.id === id)?.doc;
    const unit = d?.unit ?? "";
    const step =
      d?.resolution == null
        ? null
        : units.pascal(d.resolution, unit) - units.pascal(0, unit);
    if (d)
      setGauge({
        ...gauge,
        id,
        due: d.calibration_due ?? "",
        range: d.range == null ? "" : show(units.pascal(d.range, unit)),
        resolution:
          step === null
            ? gauge.resolution
            : trimmed(units.delta("pressure", step)),
      });
    else setGauge({ ...gauge, id: "" });
  };
  const p = units.label("pressure");
  const isAbove =
    ceiling !== null &&
    figure(form.level) > 0 &&
    units.si("pressure", figure(form.level)) > ceiling * 1.0001;
  const submit = (e: FormEvent) => {
    e.preventDefault();
    const bad = notANumber([
      ["Test pressure", form.level],
      ["Planned hold", form.minutes],
      ["Allowed drop", drop],
      ["Altitude or barometer", air.value],
      ["Tracer", gas.tracer],
      ["Gauge’s hose", remind.hose],
      ["Gauge step", gauge.resolution],
      ["Gauge range", gauge.range],
      ["Weakest fitting", gauge.fittings],
      ["Regulator", gauge.regulator],
      ["Relief valve", gauge.relief],
      ["Pressure switch", gauge.pressureSwitch],
      ["Sensor", gauge.sensor],
      ["Warmer by", gauge.warmer],
      ["Reading every", remind.every],
      ["Gauge off after", remind.off],
      ["Factor", strength.factor],
      ...probes.map((x): [string, string] => [`Share of ${x.name}`, x.share]),
    ]);
    setProblem(bad);
    if (bad) return;
    const si = (text: string) =>
      number(text) === null ? null : units.si("pressure", number(text) ?? 0);
    const [minutes, allowed] = [number(form.minutes), number(drop)];
    const seconds = (text: string) =>
      number(text) === null ? null : (number(text) ?? 0) * 60;
    const plan: Schemas["Plan"] = {
      school,
      section,
      kit: [...(gauge.id ? [gauge.id] : []), ...also],
      source: source.trim() || null,
      altitude_m: air.by === "altitude" ? number(air.value) : null,
      barometer_pa:
        air.by === "typed" && number(air.value) !== null
          ? (number(air.value) ?? 0) * 100
          : null,
      gas:
        gas.inside === "refrigerant" ? "nitrogen_with_refrigerant" : "nitrogen",
      tracer_pa:
        gas.inside === "tracer" && number(gas.tracer) !== null
          ? (number(gas.tracer) ?? 0) *
            (units.si("pressure", 1) - units.si("pressure", 0))
          : null,
      test_pa: si(form.level),
      planned_s: minutes === null ? null : minutes * 60,
      ...(allowed !== null && {
        drop_pa: allowed * (units.si("pressure", 1) - units.si("pressure", 0)),
        over_s: (minutes ?? 0) * 60,
      }),
      fittings_pa: si(gauge.fittings),
      regulator_pa: si(gauge.regulator),
      relief_pa: si(gauge.relief),
      switch_pa: si(gauge.pressureSwitch),
      sensor_pa: si(gauge.sensor),
      warming_k:
        number(gauge.warmer) === null
          ? null
          : units.si("temperature", number(gauge.warmer) ?? 0) -
            units.si("temperature", 0),
      probe: sits === "unsaid" || probes.length === 0 ? null : sits,
      sky: sky === "unsaid" ? null : sky,
      read_every_s: seconds(remind.every),
      auto_off_s: seconds(remind.off),
      dead_volume_ml: number(remind.hose),
      strength:
        isAbove && strength.code
          ? {
              code: strength.code,
              edition: strength.edition,
              factor: number(strength.factor) ?? 0,
              reason: strength.reason,
            }
          : null,
    };
    const one = (
      name: string,
      position: Schemas["Position"] | null,
    ): Schemas["ChannelInput"] => ({
      name,
      quantity: "gauge_pressure",
      unit: units.chosen.pressure,
      resolution: number(gauge.resolution),
      range: number(gauge.range),
      position,
      reference: gauge.reference,
      calibration_due: gauge.due || null,
    });
    const gauges =
      gauge.sides === "two"
        ? [one("Low side", "low"), one("High side", "high")]
        : [one("Pressure", null)];
    const temperatures = probes.map((x): Schemas["ChannelInput"] => ({
      name: x.name,
      quantity: "temperature",
      unit: units.chosen.temperature,
      resolution: 0.1,
      position: x.position,
      volume_share:
        number(x.share) === null ? null : (number(x.share) ?? 0) / 100,
    }));
    save.mutate(
      {
        kind: "pressure-hold",
        plan,
        channels: [
          ...gauges,
          ...temperatures,
          ...(air.by === "channel"
            ? [
                {
                  name: "Barometer",
                  quantity: "barometric_pressure" as const,
                  unit: "hPa" as const,
                  resolution: 0.1,
                },
              ]
            : []),
        ],
      },
      { onSuccess: (made) => onMade(made.id) },
    );
  };
  const volume: [number, number] = [
    circuit.volume_l ?? here?.volume_low_l ?? units.meta.usual_volume_low_l,
    circuit.volume_l ?? here?.volume_high_l ?? units.meta.usual_volume_high_l,
  ];
  return (
    <section>
      <Form
        refusal={refusal}
        also={{
          over_s: "drop_pa",
          channels: "name",
          barometer_pa: "altitude_m",
        }}
        onSubmit={submit}
      >
        <h2>Plan a pressure hold</h2>
        <Big>
          Lowest plate:{" "}
          {ceiling === null ? (
            "none entered yet"
          ) : (
            <>
              <b>{show(ceiling)}</b> {p}, {here?.ceiling_name}
            </>
          )}
        </Big>
        {sections.length > 1 && (
          <Pick
            label="Section under test"
            value={section}
            onChange={(s) => {
              setSection(s);
              if (school !== "own") setForm(fromSchool(school, s));
            }}
            options={sections.map((s) => ({ id: s.name, text: s.name }))}
            hint={here?.bounds.join("; ")}
            name="section"
          />
        )}
        <Pick
          label="Procedure"
          value={school}
          options={[
            ...schools.map((s) => ({ id: s.code, text: s.title })),
            { id: "own", text: "The maker’s or my own" },
          ]}
          onChange={(code) => {
            setSchool(code);
            if (code !== "own") setForm(fromSchool(code, section));
          }}
          hint={worth(chosen)}
        />
        <Grid $min={150}>
          <Field
            label={`Test pressure, ${p}`}
            value={form.level}
            onChange={(level) => setForm({ ...form, level })}
            inputMode="decimal"
            name="test_pa"
          />
          <Field
            label="Planned hold, min"
            value={form.minutes}
            onChange={(minutes) => setForm({ ...form, minutes })}
            inputMode="decimal"
            name="planned_s"
          />
          <Field
            label={`Allowed drop, ${units.deltaLabel("pressure")}`}
            value={drop}
            onChange={setDrop}
            inputMode="decimal"
            hint="empty: 0.3 % of absolute pressure"
            name="drop_pa"
          />
          <Field
            label="Limit comes from"
            value={source}
            onChange={setSource}
            placeholder="maker’s page, code, habit"
          />
        </Grid>
        <LowerRetest
          again={circuit.search.retests.find(
            (r) => r.section === section && !r.is_met,
          )}
          planned={
            figure(form.level) > 0
              ? units.si("pressure", figure(form.level))
              : null
          }
        />
        {isAbove && (
          <Grid
            $min={150}
            role="group"
            aria-label="Strength test above a plate"
          >
            <Field
              label="Strength test by, code and clause"
              value={strength.code}
              onChange={(code) => setStrength({ ...strength, code })}
              hint="above a plate only by a named code"
            />
            <Field
              label="Edition"
              value={strength.edition}
              onChange={(edition) => setStrength({ ...strength, edition })}
            />
            <Field
              label="Factor over the plate"
              value={strength.factor}
              onChange={(factor) => setStrength({ ...strength, factor })}
              inputMode="decimal"
            />
            <Field
              label="Reason"
              value={strength.reason}
              onChange={(reason) => setStrength({ ...strength, reason })}
            />
          </Grid>
        )}
        <Grid $min={150}>
          {kit.length > 0 && (
            <Pick
              label="Gauge"
              value={gauge.id || "hand"}
              onChange={fromKit}
              options={[
                ...kit.map((i) => ({ id: i.id, text: i.doc.name ?? "" })),
                { id: "hand", text: "another one" },
              ]}
            />
          )}
          <Field
            label={`Gauge step, ${units.deltaLabel("pressure")}`}
            value={gauge.resolution}
            onChange={(resolution) => setGauge({ ...gauge, resolution })}
            inputMode="decimal"
            name="resolution"
          />
          <Field
            label={`Gauge range, ${p}`}
            value={gauge.range}
            onChange={(range) => setGauge({ ...gauge, range })}
            inputMode="decimal"
            hint="top of the scale"
            name="range"
          />
          <Pick
            label="Gauges"
            value={gauge.sides}
            onChange={(sides) => setGauge({ ...gauge, sides })}
            options={[
              { id: "one", text: "one" },
              { id: "two", text: "both sides" },
            ]}
          />
          <Pick
            label="Temperature probes"
            value={String(probes.length)}
            onChange={(n) => setProbes(PROBES.slice(0, Number(n)))}
            options={["none", "one", "two", "three"].map((text, i) => ({
              id: String(i),
              text,
            }))}
            hint={
              probes.length
                ? "on different parts"
                : "without one it stays undecided"
            }
          />
          {probes.length > 0 && (
            <Pick
              label="Probe is"
              value={sits}
              onChange={setSits}
              options={SITS}
              hint="the better it sits, the sooner it is decided"
            />
          )}
          <Pick
            label="Sky"
            value={sky}
            onChange={setSky}
            options={SKIES}
            hint="what the pipes feel"
          />
          <Field
            label={`May get warmer by, ${units.label("temperature")}`}
            value={gauge.warmer}
            onChange={(warmer) => setGauge({ ...gauge, warmer })}
            inputMode="decimal"
            hint="sun on a closed hold raises it"
            name="warming_k"
          />
        </Grid>
        {probes.length > 1 &&
          probes.map((x, i) => (
            <Grid $min={150} key={i}>
              <Field
                label={`Name of probe ${i + 1}`}
                value={x.name}
                onChange={(name) => change(i, { name })}
                name="name"
              />
              <Pick
                label="Sits on"
                value={x.position}
                onChange={(position) => change(i, { position })}
                options={PLACES}
              />
              <Field
                label="Share of the volume, %"
                value={x.share}
                onChange={(share) => change(i, { share })}
                inputMode="decimal"
                hint="empty: equal shares"
                name="volume_share"
              />
            </Grid>
          ))}
        <Closed>
          <summary>Tools, air and reminders</summary>
          <Grid $min={150}>
            <Field
              label={`Weakest fitting, ${p}`}
              value={gauge.fittings}
              onChange={(fittings) => setGauge({ ...gauge, fittings })}
              inputMode="decimal"
              hint="hoses, core tools"
            />
            <Field
              label={`Regulator up to, ${p}`}
              value={gauge.regulator}
              onChange={(regulator) => setGauge({ ...gauge, regulator })}
              inputMode="decimal"
            />
            <Field
              label={`Relief valve set to, ${p}`}
              value={gauge.relief}
              onChange={(relief) => setGauge({ ...gauge, relief })}
              inputMode="decimal"
              hint="if one is left in"
              name="relief_pa"
            />
            <Field
              label={`Pressure switch up to, ${p}`}
              value={gauge.pressureSwitch}
              onChange={(pressureSwitch) =>
                setGauge({ ...gauge, pressureSwitch })
              }
              inputMode="decimal"
              hint="if one is left in"
              name="switch_pa"
            />
            <Field
              label={`Sensor up to, ${p}`}
              value={gauge.sensor}
              onChange={(sensor) => setGauge({ ...gauge, sensor })}
              inputMode="decimal"
              hint="if one is left in"
              name="sensor_pa"
            />
            <Pick
              label="Gauge is"
              value={gauge.reference}
              onChange={(reference) => setGauge({ ...gauge, reference })}
              options={[
                { id: "vented", text: "vented" },
                { id: "sealed", text: "sealed" },
              ]}
            />
            <Field
              label="Calibration runs out"
              value={gauge.due}
              onChange={(due) => setGauge({ ...gauge, due })}
              placeholder="2027-03-31"
              name="calibration_due"
            />
            <Pick
              label="Air pressure"
              value={air.by}
              onChange={(by) => setAir({ ...air, by })}
              options={[
                { id: "none", text: "not known" },
                { id: "altitude", text: "from the altitude" },
                { id: "typed", text: "a barometer here" },
                { id: "channel", text: "read along" },
              ]}
              hint={
                air.by === "none"
                  ? "the weather goes into the interval"
                  : "not a weather service’s: that is for the sea"
              }
            />
            {(air.by === "altitude" || air.by === "typed") && (
              <Field
                label={air.by === "altitude" ? "Altitude, m" : "Barometer, hPa"}
                value={air.value}
                onChange={(value) => setAir({ ...air, value })}
                inputMode="decimal"
                name="altitude_m"
              />
            )}
            <Pick
              label="Inside is"
              value={gas.inside}
              onChange={(inside) => setGas({ ...gas, inside })}
              options={[
                { id: "nitrogen", text: "dry nitrogen" },
                { id: "tracer", text: "nitrogen with tracer" },
                { id: "refrigerant", text: "refrigerant left in it" },
              ]}
              hint={
                gas.inside === "refrigerant"
                  ? "no tightness verdict will be made"
                  : undefined
              }
            />
            {gas.inside === "tracer" && (
              <Field
                label={`Tracer, ${units.deltaLabel("pressure")}`}
                value={gas.tracer}
                onChange={(tracer) => setGas({ ...gas, tracer })}
                inputMode="decimal"
                hint="before the nitrogen went on top"
                name="tracer_pa"
              />
            )}
            <Field
              label="A reading every, min"
              value={remind.every}
              onChange={(every) => setRemind({ ...remind, every })}
              inputMode="decimal"
              hint="rings when it is due"
              name="read_every_s"
            />
            <Field
              label="Gauge’s hose holds, mL"
              value={remind.hose}
              onChange={(hose) => setRemind({ ...remind, hose })}
              inputMode="decimal"
              hint="only if the gauge comes off meanwhile"
              name="dead_volume_ml"
            />
            <Field
              label="Gauge off after, min"
              value={remind.off}
              onChange={(off) => setRemind({ ...remind, off })}
              inputMode="decimal"
              hint="warns before it sleeps"
              name="auto_off_s"
            />
          </Grid>
          <KitTicks
            legend="Also used"
            items={items.filter((i) =>
              ["probe", "bottle", "regulator", "core_tool", "hose"].includes(
                i.doc.kind ?? "",
              ),
            )}
            chosen={also}
            onChange={setAlso}
          />
        </Closed>
        <InUse circuit={circuit.id} ids={[gauge.id, ...also]} />
        {(number(form.minutes) ?? 0) >= LONG && (
          <Note>
            A long hold, unattended: strap and lag the probe in the shade; a
            barometer, or a sealed gauge; the ceiling at the day’s warmest hour;
            say whether the gauge stays on or what its hose holds; a tag on the
            set. One more reading when it is as warm again as now is the best
            end.
          </Note>
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
        <summary>How long is enough?</summary>
        <Enough
          key={section + form.level + sits}
          start={{
            pressure: form.level,
            digit: gauge.resolution,
            probes: String(Math.max(1, probes.length)),
            ...(probes.length > 0 && { probe: sits }),
            volume,
            refrigerant: circuit.refrigerant,
            ...(remind.every && { every: String(figure(remind.every) * 60) }),
          }}
        />
      </Closed>
      <Closed>
        <summary>Does the nitrogen reach?</summary>
        <Nitrogen
          key={section + form.level}
          start={{ to: form.level, system: trimmed(volume[1], 2) }}
        />
      </Closed>
      <Closed>
        <summary>Other ways: two halves, or a file</summary>
        <p>
          Two gauges on the two sides of a shut valve tell a leak outside from a
          valve that lets by.{" "}
          <Link
            to="#"
            onClick={(e) => {
              e.preventDefault();
              onLeakBy();
            }}
          >
            Plan a leak-by test
          </Link>
        </p>
        <Import circuit={circuit.id} kind="pressure-hold" onMade={onMade} />
      </Closed>
      {here && here.missing.length > 0 && <Note>{here.missing.join(" ")}</Note>}
    </section>
  );
}
