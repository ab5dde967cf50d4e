import type { Schemas } from "../../api/client";

/** What the kit may hold. */
export const KINDS: { id: Schemas["KitKind"]; text: string }[] = [
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
export const CERTIFIED: Schemas["KitKind"][] = [
  "vacuum_gauge",
  "pressure_gauge",
  "probe",
  "scale",
  "leak_detector",
  "regulator",
];
export const GAUGES: Schemas["KitKind"][] = [
  "vacuum_gauge",
  "pressure_gauge",
  "probe",
];
export const FLOWS = [
  { id: "l/min", text: "L/min" },
  { id: "m3/h", text: "m³/h" },
  { id: "cfm", text: "cfm" },
];
export const PRINCIPLES: { id: Schemas["Principle"]; text: string }[] = [
  { id: "thermal", text: "heat loss (thermistor, thermocouple)" },
  { id: "diaphragm", text: "diaphragm" },
];
