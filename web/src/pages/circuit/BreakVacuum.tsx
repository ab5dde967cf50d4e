import { useState, type FormEvent } from "react";
import type { Schemas } from "../../api/client";
import { useWrite, writes } from "../../api/queries";
import { Field, Grid, Note, Pick, Primary } from "../../look/parts";
import { atClock, notANumber, useUnits } from "../../units/units";
import { Form } from "./plan";
import { StrikeOut } from "./StrikeOut";

const WITH = [
  "dry nitrogen",
  "the weighed adder, as liquid",
  "the factory charge, through the liquid valve",
];
const CORES = [
  { id: "after", text: "go back now, at positive pressure" },
  { id: "sealed", text: "went back inside a sealed core tool, under vacuum" },
  { id: "none", text: "were never taken out" },
];

/** Breaking the vacuum: gauge isolated, with what, to what pressure, and when the cores go back. */
export function BreakVacuum({
  circuit,
  stage,
  isReadOnly,
}: {
  circuit: Schemas["CircuitView"];
  stage: Schemas["StageView"];
  isReadOnly: boolean;
}) {
  const units = useUnits();
  const [gauge, setGauge] = useState("");
  const [what, setWhat] = useState(WITH[0] ?? "");
  const [to, setTo] = useState("");
  const [first, setFirst] = useState("");
  const [cores, setCores] = useState("after");
  const [problem, setProblem] = useState<string | null>(null);
  const save = useWrite(writes.step(circuit.id));
  const unit = units.label("pressure");
  const slight = units.si("pressure", 0) + units.pascal(2, "psi");
  const pressure =
    to.trim() && Number.isFinite(Number(to))
      ? units.si("pressure", Number(to))
      : null;
  const isLiquid = what !== WITH[0];
  const guard =
    circuit.freeze_guard_pa == null
      ? "the pressure the maker names"
      : `${units.of("pressure", circuit.freeze_guard_pa).toPrecision(3)} ${unit}`;
  const submit = (e: FormEvent) => {
    e.preventDefault();
    const bad =
      notANumber([["Pressure afterwards", to]]) ??
      (gauge === "yes"
        ? null
        : "Isolate the vacuum gauge first: pressure or liquid ruins it.") ??
      (isLiquid && first !== "vapour"
        ? `Vapour only until ${guard}: liquid into a vacuum freezes what water is left.`
        : null) ??
      (to.trim() ? null : "Write down the pressure afterwards.") ??
      (cores !== "sealed" &&
      pressure !== null &&
      pressure <= units.si("pressure", 0)
        ? "That is not a positive pressure: a core put back now pulls air in."
        : null);
    setProblem(bad);
    if (!bad)
      save.mutate({
        step: "vacuum_broken",
        note: `gauge isolated; with ${what}${isLiquid ? ", vapour first" : ""} to ${to} ${unit}; cores ${CORES.find((c) => c.id === cores)?.text ?? ""}`,
      });
  };
  return (
    <section>
      <h2>Break the vacuum</h2>
      {stage.steps.map((s) => (
        <p key={s.id}>
          {atClock(s.at_ms)} {s.note}{" "}
          {!isReadOnly && (
            <StrikeOut circuit={circuit.id} entry={s.id} what={s.title} />
          )}
        </p>
      ))}
      {!isReadOnly && (
        <Form onSubmit={submit}>
          <p>
            To a slight positive pressure, about{" "}
            {units.of("pressure", slight).toPrecision(2)} {unit} (common
            practice), before any core goes back.
          </p>
          <Grid $min={190}>
            <Pick
              label="Vacuum gauge"
              value={gauge}
              onChange={setGauge}
              options={[
                { id: "yes", text: "isolated" },
                { id: "no", text: "still open" },
              ]}
            />
            <Pick
              label="Broken with"
              value={what}
              onChange={setWhat}
              options={WITH.map((id) => ({ id, text: id }))}
            />
            {isLiquid && (
              <Pick
                label={`Up to ${guard} it went in as`}
                value={first}
                onChange={setFirst}
                options={[
                  { id: "vapour", text: "vapour" },
                  { id: "liquid", text: "liquid" },
                ]}
              />
            )}
            <Field
              label={`Pressure afterwards, ${unit}`}
              value={to}
              onChange={setTo}
              inputMode="decimal"
            />
            <Pick
              label="The valve cores"
              value={cores}
              onChange={setCores}
              options={CORES}
            />
          </Grid>
          {cores === "sealed" && (
            <Note>
              Putting cores back under vacuum trusts the tool’s seal: a slide
              that leaks lets air in unseen. The maker may forbid it.
            </Note>
          )}
          {what.startsWith("the factory") && (
            <Note>
              The factory charge opens both valves for good: nothing more can be
              tested on the line set after it.
            </Note>
          )}
          {(problem ?? save.error) && (
            <Note $kind="wrong" role="alert">
              {problem ?? save.error?.message}
            </Note>
          )}
          <span>
            <Primary type="submit" isDisabled={save.isPending}>
              Confirm: vacuum broken
            </Primary>
          </span>
        </Form>
      )}
    </section>
  );
}
