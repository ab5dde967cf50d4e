import { figure } from "../units/typed";
import { Gauges } from "./Gauges";
import { TriangleAlert } from "lucide-react";
import { useState, type FormEvent } from "react";
import { Link } from "react-router";
import { useTitle } from "../look/title";
import styled from "styled-components";
import { Refusal, type Schemas } from "../api/client";
import { useKit, useWrite, writes } from "../api/queries";
import { useMay } from "../api/session";
import { LooksOn } from "../look/LooksOn";
import { Button, Field, Grid, Note, Pick, Primary } from "../look/parts";
import { Form, Page, Row as Plain } from "../look/page";
import { Mark } from "../look/verdict";
import { KitTicks } from "./circuit/KitTicks";
import { notANumber, onDate, useUnits } from "../units/units";

const Row = styled(Plain)`
  p.wrong {
    color: var(--falling);
    font-weight: 600;
  }
  strong small {
    color: var(--soft);
    font-weight: 450;
    font-size: var(--t-small);
  }
  .tests {
    grid-column: 1 / -1;
    display: flex;
    flex-wrap: wrap;
    gap: 0 16px;
  }
  a {
    min-height: 48px;
    display: inline-flex;
    align-items: center;
    gap: 0.4em;
  }
  .press {
    display: flex;
    gap: 8px;
  }
  @media (max-width: 700px) {
    grid-template-columns: minmax(0, 1fr);
  }
`;
const KINDS: { id: Schemas["KitKind"]; text: string }[] = [
  { id: "rig", text: "Rig: a pump with its hoses" },
  { id: "vacuum_gauge", text: "Vacuum gauge" },
  { id: "pressure_gauge", text: "Pressure gauge" },
  { id: "probe", text: "Temperature probe" },
  { id: "pump", text: "Vacuum pump" },
  { id: "hose", text: "Hose" },
  { id: "core_tool", text: "Core tool" },
  { id: "bottle", text: "Nitrogen bottle" },
  { id: "regulator", text: "Regulator" },
  { id: "scale", text: "Scale" },
  { id: "leak_detector", text: "Leak detector" },
  { id: "recovery_machine", text: "Recovery machine" },
];
/** What has a certificate of its own. */
const CERTIFIED: Schemas["KitKind"][] = [
  "vacuum_gauge",
  "pressure_gauge",
  "probe",
  "scale",
  "leak_detector",
  "regulator",
];
const GAUGES: Schemas["KitKind"][] = [
  "vacuum_gauge",
  "pressure_gauge",
  "probe",
];
const FLOWS = [
  { id: "l/min", text: "L/min" },
  { id: "m3/h", text: "m³/h" },
  { id: "cfm", text: "cfm" },
];
const PRINCIPLES = [
  { id: "thermal", text: "heat loss (thermistor, thermocouple)" },
  { id: "diaphragm", text: "diaphragm" },
];

type Text = Record<string, string>;
interface Draft {
  id: string | null;
  kind: Schemas["KitKind"];
  parts: string[];
  f: Text;
}

function measures(kind: Schemas["KitKind"]) {
  if (kind === "probe") return "temperature";
  return kind === "pressure_gauge" ? "pressure" : "vacuum";
}

/** One thing: its fields depend on what it is. */
function KitForm({
  start,
  items,
  onDone,
}: {
  start: Draft;
  items: Schemas["KitItem"][];
  onDone: () => void;
}) {
  const units = useUnits();
  const [d, setDraft] = useState(start);
  const [problem, setProblem] = useState<string | null>(null);
  const save = useWrite(writes.kit);
  const refusal = save.error instanceof Refusal ? save.error : null;
  const field = (name: string) => ({
    value: d.f[name] ?? "",
    onChange: (v: string) => setDraft({ ...d, f: { ...d.f, [name]: v } }),
    name,
  });
  const of = measures(d.kind);
  const unit = d.f.unit ?? units.chosen[of];
  const number = (name: string) =>
    (d.f[name] ?? "").trim() ? figure(d.f[name] ?? "") : null;
  const submit = (e: FormEvent) => {
    e.preventDefault();
    const bad = notANumber(
      [
        "resolution",
        "accuracy",
        "range",
        "auto_off_min",
        "flow",
        "ultimate",
        "bore_mm",
        "length_m",
        "volume_l",
      ].map((n): [string, string] => [n.replace("_", " "), d.f[n] ?? ""]),
    );
    setProblem(bad);
    if (bad) return;
    const text = (name: string) => (d.f[name] ?? "").trim();
    const body: Schemas["KitDoc"] = {
      kind: d.kind,
      name: text("name"),
      unit: GAUGES.includes(d.kind) ? (unit as Schemas["Unit"]) : null,
      note: text("note"),
      parts: d.parts,
      is_retired: false,
      principle:
        d.kind === "vacuum_gauge"
          ? ((d.f.principle ?? "thermal") as Schemas["Principle"])
          : null,
      resolution: number("resolution"),
      accuracy: number("accuracy"),
      range: number("range"),
      auto_off_min: number("auto_off_min"),
      calibration_due: text("calibration_due") || null,
      oil_changed: text("oil_changed") || null,
      serial: text("serial") || null,
      certificate: text("certificate") || null,
      bore_mm: number("bore_mm"),
      length_m: number("length_m"),
      volume_l: number("volume_l"),
      flow: text("flow")
        ? { typed: text("flow"), unit: d.f.flow_unit ?? "l/min" }
        : null,
      ultimate: text("ultimate")
        ? { typed: text("ultimate"), unit: units.chosen.vacuum }
        : null,
    };
    save.mutate({ id: d.id, body }, { onSuccess: onDone });
  };
  const label = units.meta.units.find((u) => u.code === unit)?.label ?? unit;
  const isGauge = GAUGES.includes(d.kind);
  const parts = items.filter(
    (i) =>
      ["pump", "hose", "core_tool"].includes(i.doc.kind ?? "") &&
      !i.doc.is_retired,
  );
  return (
    <Form refusal={refusal} onSubmit={submit}>
      <h2>{d.id ? "Next version" : "Into the kit"}</h2>
      <Grid $min={170}>
        {!d.id && (
          <Pick
            label="What"
            value={d.kind}
            onChange={(kind) =>
              setDraft({ ...d, kind, f: { name: d.f.name ?? "" } })
            }
            options={KINDS}
          />
        )}
        <Field label="Name" {...field("name")} placeholder="as it is marked" />
        {isGauge && (
          <Pick
            label="Unit"
            value={unit}
            onChange={(v) => field("unit").onChange(v)}
            options={units.meta.units
              .filter(
                (u) => u.dimension === (of === "temperature" ? of : "pressure"),
              )
              .map((u) => ({ id: u.code, text: u.label }))}
          />
        )}
        {d.kind === "vacuum_gauge" && (
          <Pick
            label="Principle"
            value={d.f.principle ?? "thermal"}
            onChange={(v) => field("principle").onChange(v)}
            options={PRINCIPLES}
          />
        )}
        {isGauge && (
          <Field
            label={`Step, ${label}`}
            {...field("resolution")}
            inputMode="decimal"
          />
        )}
        {isGauge && (
          <Field
            label={`Range, ${label}`}
            {...field("range")}
            inputMode="decimal"
            hint="top of the scale"
          />
        )}
        {isGauge && (
          <Field
            label={`Accuracy ±, ${label}`}
            {...field("accuracy")}
            inputMode="decimal"
          />
        )}
        {CERTIFIED.includes(d.kind) && (
          <Field
            label="Calibrated until"
            {...field("calibration_due")}
            placeholder="2027-03-31"
          />
        )}
        {CERTIFIED.includes(d.kind) && (
          <Field label="Certificate number" {...field("certificate")} />
        )}
        {d.kind !== "rig" && (
          <Field label="Serial number" {...field("serial")} />
        )}
        {d.kind === "vacuum_gauge" && (
          <Field
            label="Switches itself off after, min"
            {...field("auto_off_min")}
            inputMode="decimal"
          />
        )}
        {d.kind === "pump" && (
          <Field label="Flow" {...field("flow")} inputMode="decimal" />
        )}
        {d.kind === "pump" && (
          <Pick
            label="Flow in"
            value={d.f.flow_unit ?? "l/min"}
            onChange={(v) => field("flow_unit").onChange(v)}
            options={FLOWS}
          />
        )}
        {d.kind === "pump" && (
          <Field
            label={`Reaches blanked off, ${units.label("vacuum")}`}
            {...field("ultimate")}
            inputMode="decimal"
          />
        )}
        {d.kind === "pump" && (
          <Field
            label="Oil changed on"
            {...field("oil_changed")}
            placeholder="2026-11-20"
          />
        )}
        {d.kind === "hose" && (
          <Field
            label="Bore, mm"
            {...field("bore_mm")}
            inputMode="decimal"
            hint="3/8 in is 9.5"
          />
        )}
        {d.kind === "hose" && (
          <Field label="Length, m" {...field("length_m")} inputMode="decimal" />
        )}
        {d.kind === "bottle" && (
          <Field label="Volume, L" {...field("volume_l")} inputMode="decimal" />
        )}
        <Field label="Note" {...field("note")} />
      </Grid>
      {d.kind === "rig" && (
        <>
          {parts.length === 0 && (
            <p>Put a pump and hoses into the kit first.</p>
          )}
          <KitTicks
            legend="Made of"
            items={parts}
            chosen={d.parts}
            onChange={(list) => setDraft({ ...d, parts: list })}
          />
        </>
      )}
      {(problem ?? refusal) && (
        <Note $kind="wrong" role="alert">
          {problem ?? refusal?.message}
        </Note>
      )}
      <span style={{ display: "flex", gap: 10 }}>
        <Primary type="submit" isDisabled={save.isPending}>
          Keep it
        </Primary>
        <Button onPress={onDone}>Cancel</Button>
      </span>
    </Form>
  );
}

const asDraft = (i: Schemas["KitItem"]): Draft => {
  const { flow, ultimate, parts, kind, ...rest } = i.doc;
  const f: Text = {};
  for (const [k, v] of Object.entries(rest))
    if (typeof v === "string" || typeof v === "number") f[k] = String(v);
  if (flow) Object.assign(f, { flow: flow.typed, flow_unit: flow.unit });
  if (ultimate) f.ultimate = ultimate.typed;
  return { id: i.id, kind: kind ?? "", parts: parts ?? [], f };
};

/** What is in the van: registered once, picked per job; rigs are checked alone, apart from every system. */
export default function Kit() {
  useTitle("Kit");
  const { data, error } = useKit();
  const mayWork = useMay("work");
  const [draft, setDraft] = useState<Draft | null>(null);
  const retire = useWrite(writes.kit);
  if (error)
    return (
      <Note $kind="wrong" role="alert">
        {error.message}
      </Note>
    );
  const items = (data?.items ?? []).filter((i) => !i.doc.is_retired);
  return (
    <Page>
      <h1>Kit</h1>
      <p>
        Registered once, picked for each test; every record prints what it used.
        A rig is checked alone before a system is judged through it: the pump
        blanked off, then the hoses shut off from the pump.
      </p>
      {data && data.due.length > 0 && (
        <Note $kind={data.due.some((d) => d.is_past) ? "wrong" : "calm"}>
          <strong>Falls due</strong>
          {data.due.map((d) => (
            <span key={d.id} style={{ display: "block" }}>
              {d.words}
            </span>
          ))}
        </Note>
      )}
      <LooksOn />
      {draft ? (
        <KitForm
          key={draft.id ?? "new"}
          start={draft}
          items={items}
          onDone={() => setDraft(null)}
        />
      ) : (
        mayWork && (
          <span>
            <Primary
              onPress={() =>
                setDraft({
                  id: null,
                  kind: items.length ? "hose" : "vacuum_gauge",
                  parts: [],
                  f: {},
                })
              }
            >
              Put something in
            </Primary>
          </span>
        )
      )}
      {retire.error && (
        <Note $kind="wrong" role="alert">
          {retire.error.message}
        </Note>
      )}
      {data && items.length === 0 && (
        <Note>
          Nothing is in the kit yet. Begin with the vacuum gauge, the pump and
          the hoses; then put them together as a rig.
        </Note>
      )}
      {KINDS.map(({ id: kind, text }) => {
        const group = items.filter((i) => i.doc.kind === kind);
        return group.length === 0 ? null : (
          <section key={kind} aria-label={text}>
            <h2>
              {kind === "rig" ? "Rigs" : `${group[0]?.kind_title ?? text}s`}
            </h2>
            <ul>
              {group.map((i) => (
                <Row key={i.id}>
                  <div>
                    <strong>{i.doc.name}</strong>
                    <p>{i.words}</p>
                    {i.warning && (
                      <p className="wrong">
                        <TriangleAlert size={17} aria-hidden /> {i.warning}
                      </p>
                    )}
                  </div>
                  <div className="press">
                    {kind === "rig" && (
                      <Link to={`/circuits/${i.id}`}>Check it</Link>
                    )}
                    {mayWork && (
                      <>
                        <Button
                          aria-label={`Change ${i.doc.name ?? ""}`}
                          onPress={() => setDraft(asDraft(i))}
                        >
                          Change
                        </Button>
                        <Button
                          aria-label={`Retire ${i.doc.name ?? ""}`}
                          onPress={() =>
                            retire.mutate({
                              id: i.id,
                              body: { ...i.doc, is_retired: true },
                            })
                          }
                        >
                          Retire
                        </Button>
                      </>
                    )}
                  </div>
                  {i.tests.length > 0 && (
                    <div className="tests">
                      {i.tests.slice(-6).map((t) => (
                        <Link
                          key={t.id}
                          to={`/circuits/${i.id}?stage=rig_check&test=${t.id}`}
                        >
                          <Mark shape={t.shape} size={17} />
                          {t.title}: {t.word}, {t.headline}{" "}
                          <small>{onDate(t.created_ms)}</small>
                        </Link>
                      ))}
                    </div>
                  )}
                </Row>
              ))}
            </ul>
          </section>
        );
      })}
      <Gauges />
    </Page>
  );
}
