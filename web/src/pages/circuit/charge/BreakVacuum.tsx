import { FormEnd } from "../../../form/Form";
import { useState } from "react";
import { type Schemas } from "../../../api/client";
import { visit } from "../../../api/visit";
import { useWrite } from "../../../api/queries";
import { Grid } from "../../../look/parts";
import { Pick } from "../../../look/Pick";
import { atClock, useUnits } from "../../../units/units";
import { Box, Choice, Pressure } from "../parts";
import { Form } from "../plan";
import { StrikeOut } from "../reading/StrikeOut";

type Doc = Schemas["BreakDoc"];

const YES = [
  { id: "yes", text: "yes" },
  { id: "no", text: "not yet" },
];

/** Breaking the vacuum: gauge isolated, with what, to what pressure, and when the cores go back. The rules decide. */
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
  const names = (circuit.this_visit.ports.ports.ports ?? []).map(
    (p) => p.name ?? "",
  );
  const [doc, setDoc] = useState<Doc>({
    gauge_isolated: false,
    ports: [],
    cores: "after",
  });
  const set = (part: Partial<Doc>) => setDoc({ ...doc, ...part });
  const save = useWrite(visit.broken(circuit.id));
  const slight = units.si("pressure", 0) + units.pascal(2, "psi");
  const isGas = doc.with != null && doc.with !== "nitrogen";
  const submit = () => {
    save.mutate({ broken: doc });
  };
  const at = (name: string) =>
    doc.ports?.find((p) => p.port === name)?.pressure ?? null;
  return (
    <Box>
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
        <Form
          onSubmit={submit}
          save={save}
          also={{
            "broken.gauge_isolated": "gauge",
            "broken.hose_purged": "hose",
            "broken.vapour_to": "broken.vapour_to.typed",
          }}
        >
          <p>
            To a slight positive pressure, about{" "}
            {units.of("pressure", slight).toPrecision(2)}{" "}
            {units.label("pressure")} (common practice), before any core goes
            back.
            {isGas &&
              ` Vapour only until ${circuit.this_visit.freeze_guard ?? "the pressure the maker names"}: liquid into a vacuum freezes what water is left.`}
          </p>
          <Grid $min={200}>
            <Pick
              label="Vacuum gauge isolated"
              value={doc.gauge_isolated ? "yes" : "no"}
              onChange={(v) => set({ gauge_isolated: v === "yes" })}
              options={YES}
              name="gauge"
            />
            <Choice
              of="break_with"
              label="Broken with"
              value={doc.with ?? ""}
              onChange={(w) => set({ with: w || null })}
              name="broken.with"
            />
            {(doc.with === "vapour" || doc.with === "liquid") && (
              <Pick
                label="Hose purged or evacuated"
                value={doc.hose_purged ? "yes" : "no"}
                onChange={(v) => set({ hose_purged: v === "yes" })}
                options={YES}
                name="hose"
              />
            )}
            {isGas && (
              <Pick
                label="A coil with water in it"
                value={doc.has_water_coil ? "yes" : "no"}
                onChange={(v) => set({ has_water_coil: v === "yes" })}
                options={[
                  { id: "no", text: "no" },
                  { id: "yes", text: "yes" },
                ]}
              />
            )}
            {(doc.with === "liquid" || (isGas && doc.has_water_coil)) && (
              <Pressure
                label="Liquid began at"
                value={doc.vapour_to}
                onChange={(vapour_to) => set({ vapour_to })}
                name="broken.vapour_to"
              />
            )}
            {names.map((name, i) => (
              <Pressure
                key={name}
                label={`Afterwards, ${name}`}
                value={at(name)}
                onChange={(pressure) =>
                  set({
                    ports: names
                      .map((n) => ({
                        port: n,
                        pressure: n === name ? pressure : at(n),
                      }))
                      .flatMap((p) =>
                        p.pressure
                          ? [{ port: p.port, pressure: p.pressure }]
                          : [],
                      ),
                  })
                }
                name={`broken.ports.${i}.pressure`}
              />
            ))}
            <Choice
              of="cores_back"
              label="The cores"
              value={doc.cores ?? "after"}
              onChange={(cores) => set({ cores })}
            />
          </Grid>
          <FormEnd>Confirm: vacuum broken</FormEnd>
        </Form>
      )}
    </Box>
  );
}
