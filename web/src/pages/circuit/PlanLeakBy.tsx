import { useState, type FormEvent } from "react";
import { Refusal, type Schemas } from "../../api/client";
import { useWrite, writes } from "../../api/queries";
import { Button, Field, Grid, Note, Pick, Primary } from "../../look/parts";
import { notANumber, useUnits } from "../../units/units";
import { Form, number } from "./plan";

/** Two gauges on two halves: what stands behind the valve, and the ratio of the volumes if it is known. */
export function PlanLeakBy({ circuit, onMade, onCancel }: { circuit: Schemas["CircuitView"]; onMade: (id: string) => void; onCancel: () => void }) {
  const units = useUnits();
  const sections = circuit.survey.sections;
  const [a, setA] = useState(sections[0]?.name ?? "half A");
  const [behind, setBehind] = useState("nitrogen");
  const [ratio, setRatio] = useState("");
  const [step, setStep] = useState("0.1");
  const [probes, setProbes] = useState("one");
  const [problem, setProblem] = useState<string | null>(null);
  const save = useWrite(writes.test(circuit.id, { pressure: units.chosen.pressure }));
  const refusal = save.error instanceof Refusal ? save.error : null;
  const submit = (e: FormEvent) => {
    e.preventDefault();
    const bad = notANumber([["Volume of half B over half A", ratio], ["Gauge step", step]]);
    setProblem(bad);
    if (bad) return;
    const gauge = (name: string, position: string): Schemas["ChannelInput"] => ({ name, quantity: "gauge_pressure", unit: units.chosen.pressure, resolution: number(step), position });
    const probe = (name: string, position: string): Schemas["ChannelInput"] => ({ name, quantity: "temperature", unit: units.chosen.temperature, resolution: 0.1, position });
    const temperatures = probes === "both" ? [probe("Pipe at A", "half_a"), probe("Pipe at B", "half_b")] : probes === "one" ? [probe("Pipe probe", "line")] : [];
    save.mutate(
      { kind: "leak-by", plan: { section: a, behind, volume_ratio: number(ratio), source: "balance of two halves" }, channels: [gauge("Half A", "half_a"), gauge("Half B", "half_b"), ...temperatures] },
      { onSuccess: (made) => onMade(made.id) },
    );
  };
  return (
    <Form onSubmit={submit}>
      <h2>Plan a leak-by test</h2>
      <p>Half A is under pressure, the valve to half B shut. What A loses and B gains went through the valve; what is missing from both went outside. Opening the valve at the end measures the ratio of the volumes.</p>
      <Grid $min={190}>
        {sections.length > 1 && <Pick label="Half A is" value={a} onChange={setA} options={sections.map((s) => ({ id: s.name, text: s.name }))} />}
        <Pick label="In half B stands" value={behind} onChange={setBehind} options={units.meta.behinds.filter((b) => b.code !== "section").map((b) => ({ id: b.code, text: b.title }))} />
        <Field label="Volume of half B over half A" value={ratio} onChange={setRatio} inputMode="decimal" hint="empty: a half to double, or measured at the end" />
        <Field label={`Gauge step, ${units.deltaLabel("pressure")}`} value={step} onChange={setStep} inputMode="decimal" />
        <Pick label="Temperature probes" value={probes} onChange={setProbes} options={[{ id: "none", text: "none" }, { id: "one", text: "one for both" }, { id: "both", text: "one on each half" }]} />
      </Grid>
      {(problem ?? refusal) && <Note $kind="wrong" role="alert">{problem ?? refusal?.message}</Note>}
      <span style={{ display: "flex", gap: 10 }}><Primary type="submit" isDisabled={save.isPending}>Open the test</Primary><Button onPress={onCancel}>A hold instead</Button></span>
    </Form>
  );
}
