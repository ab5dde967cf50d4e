import { useState, type FormEvent } from "react";
import { Refusal, type Schemas } from "../../api/client";
import { useWrite, writes } from "../../api/queries";
import { Button, Field, Grid, Note, Pick, Primary } from "../../look/parts";
import { notANumber, trimmed, useUnits } from "../../units/units";
import { STEPS } from "./firstHold";
import { useSwitch } from "../../units/switch";
import { Form, number } from "./plan";
import { Row } from "./Press";

/** Not a section of the survey. */
const ELSEWHERE = "elsewhere";

/** Two gauges on two halves: how high, what stands behind the valve, and the ratio of the volumes if it is known. */
export function PlanLeakBy({
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
  const [a, setA] = useState(
    (sections.find((s) => s.is_tested) ?? sections[0])?.name ?? "",
  );
  const [b, setB] = useState(ELSEWHERE);
  const [level, setLevel] = useState("");
  const [behind, setBehind] = useState<Schemas["Behind"] | "">("");
  const [ratio, setRatio] = useState("");
  const [gauge, setGauge] = useState({
    step: STEPS[units.chosen.pressure] ?? "0.1",
    range: "",
  });
  const [probes, setProbes] = useState<"none" | "one" | "both">("one");
  useSwitch("pressure", ({ value, delta }) => {
    setLevel(value);
    setGauge((g) => ({ step: delta(g.step), range: value(g.range) }));
  });
  const [problem, setProblem] = useState<string | null>(null);
  const save = useWrite(
    writes.test(circuit.id, { pressure: units.chosen.pressure }),
  );
  const refusal = save.error instanceof Refusal ? save.error : null;
  const here = sections.find((s) => s.name === a);
  const p = units.label("pressure");
  const submit = (e: FormEvent) => {
    e.preventDefault();
    const bad = notANumber([
      ["Test pressure", level],
      ["Volume of half B over half A", ratio],
      ["Gauge step", gauge.step],
      ["Gauge range", gauge.range],
    ]);
    setProblem(bad);
    if (bad) return;
    const one = (
      name: string,
      position: Schemas["Position"],
    ): Schemas["ChannelInput"] => ({
      name,
      quantity: "gauge_pressure",
      unit: units.chosen.pressure,
      resolution: number(gauge.step),
      range: number(gauge.range),
      position,
    });
    const probe = (
      name: string,
      position: Schemas["Position"],
    ): Schemas["ChannelInput"] => ({
      name,
      quantity: "temperature",
      unit: units.chosen.temperature,
      resolution: 0.1,
      position,
    });
    const temperatures = {
      both: [probe("Pipe at A", "half_a"), probe("Pipe at B", "half_b")],
      one: [probe("Pipe probe", "line")],
      none: [],
    }[probes];
    const plan: Schemas["Plan"] = {
      section: a,
      section_b: b === ELSEWHERE ? null : b,
      behind: behind || null,
      test_pa:
        number(level) === null
          ? null
          : units.si("pressure", number(level) ?? 0),
      volume_ratio: number(ratio),
      source: "balance of two halves",
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
    <Form refusal={refusal} onSubmit={submit}>
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
            label="Half A is"
            value={a}
            onChange={setA}
            options={sections.map((s) => ({ id: s.name, text: s.name }))}
            name="section"
          />
        )}
        {sections.length > 1 && (
          <Pick
            label="Half B is"
            value={b}
            onChange={setB}
            options={[
              ...sections
                .filter((s) => s.name !== a)
                .map((s) => ({ id: s.name, text: s.name })),
              { id: ELSEWHERE, text: "not in the survey" },
            ]}
            hint={
              b === ELSEWHERE ? "what it may take is then not known" : undefined
            }
            name="section_b"
          />
        )}
        <Field
          label={`Test pressure in A, ${p}`}
          value={level}
          onChange={setLevel}
          inputMode="decimal"
          hint={
            here?.ceiling_pa != null
              ? `at most ${trimmed(units.of("pressure", here.ceiling_pa))} ${p}, ${here.ceiling_name ?? ""}`
              : undefined
          }
          name="test_pa"
        />
        <Pick
          label="In half B stands"
          value={behind || "survey"}
          onChange={(code) => setBehind(code === "survey" ? "" : code)}
          options={[
            { id: "survey", text: "what the survey says" },
            ...units.meta.behinds
              .filter((x) => x.code !== "section")
              .map((x) => ({ id: x.code, text: x.title })),
          ]}
          hint="said by nobody: not known, and the valve stays shut"
          name="behind"
        />
        <Field
          label="Volume of half B over half A"
          value={ratio}
          onChange={setRatio}
          inputMode="decimal"
          hint="empty: a half to double, or measured at the end"
        />
        <Field
          label={`Gauge step, ${units.deltaLabel("pressure")}`}
          value={gauge.step}
          onChange={(step) => setGauge({ ...gauge, step })}
          inputMode="decimal"
        />
        <Field
          label={`Gauge range, ${p}`}
          value={gauge.range}
          onChange={(range) => setGauge({ ...gauge, range })}
          inputMode="decimal"
          hint="top of the scale"
        />
        <Pick
          label="Temperature probes"
          value={probes}
          onChange={setProbes}
          options={[
            { id: "none", text: "none" },
            { id: "one", text: "one for both" },
            { id: "both", text: "one on each half" },
          ]}
        />
      </Grid>
      {(problem ?? refusal) && (
        <Note $kind="wrong" role="alert">
          {problem ?? refusal?.message}
        </Note>
      )}
      <Row>
        <Primary type="submit" isDisabled={save.isPending}>
          Open the test
        </Primary>
        <Button onPress={onCancel}>A hold instead</Button>
      </Row>
    </Form>
  );
}
