import type { Schemas } from "../../../api/client";
import { useWrite, writes } from "../../../api/queries";
import { useEntry } from "../../../form/entry";
import { FormEnd } from "../../../form/Form";
import { amount, choice, delta, text, value } from "../../../form/schema";
import { Button, Field, Grid } from "../../../look/parts";
import { Pick } from "../../../look/Pick";
import { trimmed, useUnits } from "../../../units/units";
import { Form } from "../plan";

/** Not a section of the survey. */
const ELSEWHERE = "elsewhere";

const FIELDS = {
  section: text("Half A is"),
  section_b: text("Half B is", { first: ELSEWHERE }),
  test_pa: value("pressure", "Test pressure in A"),
  behind: choice<Schemas["Behind"] | "survey">("In half B stands", "survey"),
  volume_ratio: amount("Volume of half B over half A"),
  resolution: delta("pressure", "Gauge step"),
  range: value("pressure", "Gauge range"),
  probes: choice<"none" | "one" | "both">("Temperature probes", "one"),
};

/** Two gauges on two halves: how high, what stands behind the valve, and the ratio of the volumes if it is known. */
export default function PlanLeakBy({
  circuit,
  onMade,
  onCancel,
}: {
  circuit: Schemas["CircuitView"];
  onMade: (id: string) => void;
  onCancel: () => void;
}) {
  const units = useUnits();
  const sections = circuit.survey.sections;
  const entry = useEntry(FIELDS, {
    section: (sections.find((s) => s.is_tested) ?? sections[0])?.name ?? "",
    resolution: String(units.usualStep(units.chosen.pressure)),
  });
  const { field, text, si } = entry;
  const save = useWrite(
    writes.test(circuit.id, { pressure: units.chosen.pressure }),
  );
  const here = sections.find((s) => s.name === text.section);
  const submit = () => {
    const one = (
      name: string,
      position: Schemas["Position"],
    ): Schemas["ChannelInput"] => ({
      name,
      quantity: "gauge_pressure",
      unit: units.chosen.pressure,
      resolution: entry.typed("resolution"),
      range: entry.typed("range"),
      position,
    });
    const probe = (
      name: string,
      position: Schemas["Position"],
    ): Schemas["ChannelInput"] => ({
      name,
      quantity: "temperature",
      unit: units.chosen.temperature,
      resolution: units.usualStep(units.chosen.temperature),
      position,
    });
    const temperatures = {
      both: [probe("Pipe at A", "half_a"), probe("Pipe at B", "half_b")],
      one: [probe("Pipe probe", "line")],
      none: [],
    }[text.probes];
    const plan: Schemas["PlanInput"] = {
      section: text.section,
      section_b: text.section_b === ELSEWHERE ? null : text.section_b,
      behind: text.behind === "survey" ? null : text.behind,
      test_pa: si.test_pa,
      volume_ratio: si.volume_ratio,
    };
    save.mutate(
      {
        kind: "leak-by",
        plan,
        channels: [
          one("Half A", "half_a"),
          one("Half B", "half_b"),
          ...temperatures,
        ],
      },
      { onSuccess: (made) => onMade(made.id) },
    );
  };
  return (
    <Form save={save} entry={entry} onSubmit={submit}>
      <h2>Plan a leak-by test</h2>
      <p>
        Half A is under pressure, the valve to half B shut. What A loses and B
        gains went through the valve; what is missing from both went outside.
        Where both sides are known to hold nitrogen, air or a vacuum, opening
        the valve at the end measures the ratio of the volumes.
      </p>
      {here && here.bounds.length > 0 && (
        <p>By the survey: {here.bounds.join("; ")}.</p>
      )}
      <Grid $min={190}>
        {sections.length > 1 && (
          <Pick
            {...field("section")}
            options={sections.map((s) => ({ id: s.name, text: s.name }))}
          />
        )}
        {sections.length > 1 && (
          <Pick
            {...field("section_b")}
            options={[
              ...sections
                .filter((s) => s.name !== text.section)
                .map((s) => ({ id: s.name, text: s.name })),
              { id: ELSEWHERE, text: "not in the survey" },
            ]}
            hint={
              text.section_b === ELSEWHERE
                ? "what it may take is then not known"
                : undefined
            }
          />
        )}
        <Field
          {...field("test_pa")}
          hint={
            here?.ceiling_pa != null
              ? `at most ${trimmed(units.of("pressure", here.ceiling_pa))} ${units.label("pressure")}, ${here.ceiling_name ?? ""}`
              : undefined
          }
        />
        <Pick
          {...field("behind")}
          options={[
            { id: "survey", text: "what the survey says" },
            ...units.meta.behinds
              .filter((x) => x.code !== "section")
              .map((x) => ({ id: x.code, text: x.title })),
          ]}
          hint="said by nobody: not known, and the valve stays shut"
        />
        <Field
          {...field("volume_ratio")}
          hint="empty: a half to double, or measured at the end"
        />
        <Field {...field("resolution")} />
        <Field {...field("range")} hint="top of the scale" />
        <Pick
          {...field("probes")}
          options={[
            { id: "none", text: "none" },
            { id: "one", text: "one for both" },
            { id: "both", text: "one on each half" },
          ]}
        />
      </Grid>
      <FormEnd others={<Button onPress={onCancel}>A hold instead</Button>}>
        Open the test
      </FormEnd>
    </Form>
  );
}
