import type { Schemas } from "../../../api/client";
import type { Units } from "../../../units/units";
import { schoolsOf } from "../plan";

/** What a gauge's step usually is in a unit. */
export const STEPS: Record<string, string> = {
  psig: "0.1",
  bar: "0.01",
  kPa: "1",
  MPa: "0.001",
  "kgf/cm2": "0.01",
};

/** The hold that a plan begins with when nobody changes anything: the first procedure, one gauge, one probe. */
export function firstHold(
  circuit: Schemas["CircuitView"],
  units: Units,
): Schemas["TestInput"] {
  const { first: school } = schoolsOf(units.meta, "pressure-hold");
  const { sections } = circuit.survey;
  const section = sections.find((s) => s.is_tested) ?? sections[0];
  const begin = section?.begin.find((b) => b.procedure === school?.code)?.pa;
  return {
    kind: "pressure-hold",
    plan: {
      school: school?.code ?? "own",
      section: section?.name ?? null,
      gas: "nitrogen",
      test_pa: begin ?? school?.pressure_pa ?? null,
      planned_s: school?.time_s ?? null,
    },
    channels: [
      {
        name: "Pressure",
        quantity: "gauge_pressure",
        unit: units.chosen.pressure,
        resolution: Number(STEPS[units.chosen.pressure] ?? "0.1"),
        reference: "vented",
      },
      {
        name: "Pipe probe",
        quantity: "temperature",
        unit: units.chosen.temperature,
        resolution: 0.1,
        position: "line",
      },
    ],
  };
}
