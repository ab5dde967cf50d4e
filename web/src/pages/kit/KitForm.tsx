import type { Schemas } from "../../api/client";
import { named, useGauges } from "../../api/gauges";
import { useWrite, writes } from "../../api/queries";
import { useState } from "react";
import { useEntry } from "../../form/entry";
import { FormEnd } from "../../form/Form";
import { amount, choice, text, value } from "../../form/schema";
import { Button, Field, Grid } from "../../look/parts";
import { PhotoButton } from "../../look/PhotoButton";
import { Pick } from "../../look/Pick";
import { Form } from "../../look/page";
import { trimmed, useUnits, type Units } from "../../units/units";
import { KitTicks } from "../circuit/kit/KitTicks";
import { CERTIFIED, FLOWS, GAUGES, KINDS, PRINCIPLES } from "./kinds";

/** What is asked about a thing; a field that the server knows has its name. */
const FIELDS = {
  kind: choice<Schemas["KitKind"]>("What", "vacuum_gauge"),
  name: text("Name"),
  unit: text("Unit"),
  principle: choice<Schemas["Principle"]>("Principle", "thermal"),
  resolution: amount("Step"),
  range: amount("Range"),
  accuracy: amount("Accuracy ±"),
  calibration_due: text("Calibrated until"),
  certificate: text("Certificate number"),
  sends: text("Sends by itself"),
  serial: text("Serial number"),
  auto_off_min: amount("Switches itself off after", "min"),
  flow: amount("Flow"),
  flow_unit: text("Flow in", { first: "l/min" }),
  ultimate: value("vacuum", "Reaches blanked off"),
  oil_changed: text("Oil changed on"),
  bore_mm: amount("Bore", "mm"),
  length_m: amount("Length", "m"),
  volume_l: amount("Volume", "L"),
  note: text("Note"),
};

/** No gauge's id and sensor: it has no space. */
const NOT = "by-eye";

/** The unit kind that a gauge of this kind shows. */
function measures(kind: Schemas["KitKind"]) {
  if (kind === "probe") return "temperature";
  return kind === "pressure_gauge" ? "pressure" : "vacuum";
}

/** A thing of the kit as its fields show it; what was typed in a unit of the day is shown in the one of now. */
function asTyped({ doc }: Schemas["KitItem"], units: Units) {
  const plain = Object.fromEntries(
    Object.entries(doc).flatMap(([k, v]) =>
      k in FIELDS && (typeof v === "string" || typeof v === "number")
        ? [[k, String(v)]]
        : [],
    ),
  );
  const { flow, ultimate } = doc;
  return {
    ...plain,
    ...(doc.sends && { sends: `${doc.sends.gauge} ${doc.sends.source}` }),
    ...(flow && { flow: flow.typed, flow_unit: flow.unit }),
    ...(ultimate && {
      ultimate:
        ultimate.unit === units.chosen.vacuum
          ? ultimate.typed
          : trimmed(
              units.of(
                "vacuum",
                units.pascal(Number(ultimate.typed), ultimate.unit),
              ),
            ),
    }),
  };
}

/** One thing: its fields depend on what it is. */
export function KitForm({
  of,
  items,
  onDone,
}: {
  /** Null: a new one. */
  of: Schemas["KitItem"] | null;
  items: Schemas["KitItem"][];
  onDone: () => void;
}) {
  const units = useUnits();
  const entry = useEntry(
    FIELDS,
    of ? asTyped(of, units) : { kind: items.length ? "hose" : "vacuum_gauge" },
  );
  const { field, text: said, typed } = entry;
  const [made, setMade] = useState(of?.doc.parts ?? []);
  const [photo, setPhoto] = useState(of?.doc.certificate_photo ?? null);
  const heard = useGauges();
  const senders = heard?.filter((g) => !g.is_simulated) ?? [];
  const save = useWrite(writes.kit);
  const { kind } = said;
  const shows = measures(kind);
  const unit = said.unit || units.chosen[shows];
  const is = (...kinds: Schemas["KitKind"][]) => kinds.includes(kind);
  const isGauge = is(...GAUGES);
  // What it was bound to stays to be chosen, whether or not it was heard since the program began.
  const bound = of?.doc.sends ?? null;
  const sensors = [
    ...(bound ? [bound] : []),
    ...senders.flatMap((g) =>
      g.sources
        .filter((s) => s.unit === unit)
        .map((s) => ({ gauge: g.id, source: s.source })),
    ),
  ]
    .map((by) => ({ id: `${by.gauge} ${by.source}`, of: by }))
    .filter((s, i, all) => all.findIndex((o) => o.id === s.id) === i);
  const sends = said.sends || NOT;
  const submit = () => {
    /** What a field of another kind of thing holds is not sent. */
    const only = <T,>(isSo: boolean, x: T) => (isSo ? x : null);
    const words = (name: keyof typeof FIELDS) => said[name].trim() || null;
    const body: Schemas["KitDoc"] = {
      kind,
      name: said.name.trim(),
      unit: only(isGauge, unit as Schemas["Unit"]),
      note: said.note.trim(),
      parts: is("rig") ? made : [],
      is_retired: false,
      principle: only(is("vacuum_gauge"), said.principle),
      resolution: only(isGauge, typed("resolution")),
      accuracy: only(isGauge, typed("accuracy")),
      range: only(isGauge, typed("range")),
      auto_off_min: only(is("vacuum_gauge"), typed("auto_off_min")),
      calibration_due: only(is(...CERTIFIED), words("calibration_due")),
      certificate: only(is(...CERTIFIED), words("certificate")),
      certificate_photo: only(is(...CERTIFIED), photo),
      sends: only(isGauge, sensors.find((s) => s.id === sends)?.of ?? null),
      serial: only(!is("rig"), words("serial")),
      oil_changed: only(is("pump"), words("oil_changed")),
      bore_mm: only(is("hose"), typed("bore_mm")),
      length_m: only(is("hose"), typed("length_m")),
      volume_l: only(is("bottle"), typed("volume_l")),
      flow:
        is("pump") && said.flow.trim()
          ? { typed: said.flow.trim(), unit: said.flow_unit }
          : null,
      ultimate:
        is("pump") && said.ultimate.trim()
          ? { typed: said.ultimate.trim(), unit: units.chosen.vacuum }
          : null,
    };
    save.mutate({ id: of?.id ?? null, body }, { onSuccess: onDone });
  };
  const label = units.unit(unit)?.label ?? unit;
  const inUnit = (name: "resolution" | "range" | "accuracy") => {
    const shown = field(name);
    return { ...shown, label: `${shown.label}, ${label}` };
  };
  const parts = items.filter(
    (i) =>
      ["pump", "hose", "core_tool"].includes(i.doc.kind ?? "") &&
      !i.doc.is_retired,
  );
  return (
    <Form save={save} entry={entry} onSubmit={submit}>
      <h2>{of ? "Next version" : "Into the kit"}</h2>
      <Grid $min={170}>
        {!of && (
          <Pick
            {...field("kind")}
            onChange={(next) => entry.set({ kind: next, unit: "" })}
            options={KINDS}
          />
        )}
        <Field {...field("name")} placeholder="as it is marked" />
        {isGauge && (
          <Pick
            {...field("unit")}
            value={unit}
            options={units.meta.units
              .filter(
                (u) =>
                  u.dimension ===
                  (shows === "temperature" ? shows : "pressure"),
              )
              .map((u) => ({ id: u.code, text: u.label }))}
          />
        )}
        {is("vacuum_gauge") && (
          <Pick {...field("principle")} options={PRINCIPLES} />
        )}
        {isGauge && <Field {...inUnit("resolution")} />}
        {isGauge && <Field {...inUnit("range")} hint="top of the scale" />}
        {isGauge && <Field {...inUnit("accuracy")} />}
        {is(...CERTIFIED) && (
          <Field {...field("calibration_due")} placeholder="2027-03-31" />
        )}
        {is(...CERTIFIED) && <Field {...field("certificate")} />}
        {!is("rig") && <Field {...field("serial")} />}
        {isGauge && sensors.length > 0 && (
          <Pick
            {...field("sends")}
            value={sends}
            options={[
              { id: NOT, text: "no, it is read by eye" },
              ...sensors.map((s) => ({ id: s.id, text: named(heard, s.of) })),
            ]}
          />
        )}
        {is("vacuum_gauge") && <Field {...field("auto_off_min")} />}
        {is("pump") && <Field {...field("flow")} />}
        {is("pump") && <Pick {...field("flow_unit")} options={FLOWS} />}
        {is("pump") && <Field {...field("ultimate")} />}
        {is("pump") && (
          <Field {...field("oil_changed")} placeholder="2026-11-20" />
        )}
        {is("hose") && <Field {...field("bore_mm")} hint="3/8 in is 9.5" />}
        {is("hose") && <Field {...field("length_m")} />}
        {is("bottle") && <Field {...field("volume_l")} />}
        <Field {...field("note")} />
      </Grid>
      {is("rig") && parts.length === 0 && (
        <p>Put a pump and hoses into the kit first.</p>
      )}
      {is("rig") && (
        <KitTicks
          legend="Made of"
          items={parts}
          chosen={made}
          onChange={setMade}
        />
      )}
      {is(...CERTIFIED) && (
        <span>
          <PhotoButton
            circuit={null}
            text={photo ? "Another photo" : "Photo of the certificate"}
            onMade={setPhoto}
          />
        </span>
      )}
      {is(...CERTIFIED) && photo && (
        <p role="status">The certificate is in the picture.</p>
      )}
      <FormEnd others={<Button onPress={onDone}>Cancel</Button>}>
        Keep it
      </FormEnd>
    </Form>
  );
}
