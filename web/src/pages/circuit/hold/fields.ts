import type { Schemas } from "../../../api/client";
import type { Entry } from "../../../form/entry";
import { amount, choice, delta, text, value } from "../../../form/schema";
import type { Units } from "../../../units/units";
import type { Sits } from "../sits";

/** Where a temperature probe may be. */
export const PLACES: { id: Schemas["Position"]; text: string }[] = [
  { id: "line", text: "line set" },
  { id: "indoor", text: "indoor coil" },
  { id: "outdoor", text: "outdoor unit" },
  { id: "high", text: "high side" },
  { id: "low", text: "low side" },
  { id: "ambient", text: "the air around" },
];

const minutes = (label: string) => amount(label, "min", { times: 60 });
const place = (at: Schemas["Position"]) =>
  choice<Schemas["Position"]>("Sits on", at);

/** What is asked about a pressure hold; a field that the server knows has its name. */
export const FIELDS = {
  section: text("Section under test"),
  school: text("Procedure"),
  test_pa: value("pressure", "Test pressure"),
  planned_s: minutes("Planned hold"),
  drop_pa: delta("pressure", "Allowed drop"),
  source: text("Limit comes from"),
  code: text("Strength test by, code and clause"),
  edition: text("Edition"),
  factor: amount("Factor over the plate"),
  reason: text("Reason"),
  gauge: text("Gauge", { first: "hand" }),
  resolution: delta("pressure", "Gauge step"),
  range: value("pressure", "Gauge range"),
  sides: choice<"one" | "two">("Gauges", "one"),
  probes: choice<"0" | "1" | "2" | "3">("Temperature probes", "1"),
  probe: choice<Sits>("Probe is", "unsaid"),
  sky: choice<Schemas["Sky"] | "unsaid">("Sky", "unsaid"),
  warming_k: delta("temperature", "May get warmer by"),
  name1: text("Name of probe 1", { first: "Pipe probe" }),
  name2: text("Name of probe 2", { first: "Indoor probe" }),
  name3: text("Name of probe 3", { first: "Outdoor probe" }),
  place1: place("line"),
  place2: place("indoor"),
  place3: place("outdoor"),
  share1: amount("Share of the volume", "%", { times: 0.01 }),
  share2: amount("Share of the volume", "%", { times: 0.01 }),
  share3: amount("Share of the volume", "%", { times: 0.01 }),
  fittings_pa: value("pressure", "Weakest fitting"),
  regulator_pa: value("pressure", "Regulator up to"),
  relief_pa: value("pressure", "Relief valve set to"),
  switch_pa: value("pressure", "Pressure switch up to"),
  sensor_pa: value("pressure", "Sensor up to"),
  reference: choice<Schemas["Reference"]>("Gauge is", "vented"),
  calibration_due: text("Calibration runs out"),
  air: choice<"none" | "altitude" | "typed" | "channel">(
    "Air pressure",
    "none",
  ),
  altitude_m: amount("Altitude", "m"),
  barometer_pa: amount("Barometer", "hPa", { times: 100 }),
  inside: choice<"nitrogen" | "tracer" | "refrigerant">(
    "Inside is",
    "nitrogen",
  ),
  tracer_pa: delta("pressure", "Tracer"),
  read_every_s: minutes("A reading every"),
  dead_volume_ml: amount("Gauge’s hose holds", "mL"),
  auto_off_s: minutes("Gauge off after"),
};

export type HoldEntry = Entry<typeof FIELDS>;

/** The probes that are asked about. */
export const PROBES = [
  { name: "name1", place: "place1", share: "share1" },
  { name: "name2", place: "place2", share: "share2" },
  { name: "name3", place: "place3", share: "share3" },
] as const;

export const probesOf = (e: HoldEntry) =>
  PROBES.slice(0, Number(e.text.probes));

/** The hold as it is asked for; `isAbove`: the test pressure is over a plate. */
export function holdOf(
  e: HoldEntry,
  units: Units,
  isAbove: boolean,
  also: string[],
): Schemas["TestInput"] {
  const { text, si } = e;
  const { chosen } = units;
  const probes = probesOf(e);
  const gauge = (
    name: string,
    position: Schemas["Position"] | null,
  ): Schemas["ChannelInput"] => ({
    name,
    quantity: "gauge_pressure",
    unit: chosen.pressure,
    resolution: e.typed("resolution"),
    range: e.typed("range"),
    position,
    reference: text.reference,
    calibration_due: text.calibration_due || null,
  });
  const barometer: Schemas["ChannelInput"] = {
    name: "Barometer",
    quantity: "barometric_pressure",
    unit: "hPa",
    resolution: units.usualStep("hPa"),
  };
  return {
    kind: "pressure-hold",
    plan: {
      school: text.school,
      section: text.section,
      kit: [...(text.gauge === "hand" ? [] : [text.gauge]), ...also],
      source: text.source.trim() || null,
      altitude_m: text.air === "altitude" ? si.altitude_m : null,
      barometer_pa: text.air === "typed" ? si.barometer_pa : null,
      gas:
        text.inside === "refrigerant"
          ? "nitrogen_with_refrigerant"
          : "nitrogen",
      tracer_pa: text.inside === "tracer" ? si.tracer_pa : null,
      test_pa: si.test_pa,
      planned_s: si.planned_s,
      ...(si.drop_pa !== null && {
        drop_pa: si.drop_pa,
        over_s: si.planned_s ?? 0,
      }),
      fittings_pa: si.fittings_pa,
      regulator_pa: si.regulator_pa,
      relief_pa: si.relief_pa,
      switch_pa: si.switch_pa,
      sensor_pa: si.sensor_pa,
      warming_k: si.warming_k,
      probe: text.probe === "unsaid" || probes.length === 0 ? null : text.probe,
      sky: text.sky === "unsaid" ? null : text.sky,
      read_every_s: si.read_every_s,
      auto_off_s: si.auto_off_s,
      dead_volume_ml: si.dead_volume_ml,
      strength:
        isAbove && text.code
          ? {
              code: text.code,
              edition: text.edition,
              factor: si.factor ?? 0,
              reason: text.reason,
            }
          : null,
    },
    channels: [
      ...(text.sides === "two"
        ? [gauge("Low side", "low"), gauge("High side", "high")]
        : [gauge("Pressure", null)]),
      ...probes.map((p): Schemas["ChannelInput"] => ({
        name: text[p.name],
        quantity: "temperature",
        unit: chosen.temperature,
        resolution: units.usualStep(chosen.temperature),
        position: text[p.place],
        volume_share: si[p.share],
      })),
      ...(text.air === "channel" ? [barometer] : []),
    ],
  };
}
