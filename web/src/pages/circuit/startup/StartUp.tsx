import { FormEnd } from "../../../form/Form";
import { useState } from "react";
import styled from "styled-components";
import { type Schemas } from "../../../api/client";
import { visit, tried } from "../../../api/visit";
import { useBench, useWrite } from "../../../api/queries";
import { Field, Grid, HiddenText, Note } from "../../../look/parts";
import { Pick } from "../../../look/Pick";
import { atClock } from "../../../units/units";
import { Closed, Form } from "../plan";
import { StrikeOut } from "../reading/StrikeOut";
import { TypedField } from "../survey/rows";
import { Compared, Table, useDegrees, type Set } from "./sets";
import { Twins } from "./Twins";
import {
  Box,
  Choice,
  Huge,
  Pressure,
  Temperature,
  useOffered,
  type Circuit,
} from "../parts";

type Doc = Schemas["SetDoc"];

const Two = styled.div`
  display: grid;
  grid-template-columns: repeat(auto-fit, minmax(150px, 1fr));
  gap: 4px 18px;
  small {
    display: block;
    color: var(--soft);
    font-size: var(--t-note);
  }
`;
/** Superheat and subcooling of a set, with the lines they count from. */
export function SetSays({ set }: { set: Set }) {
  const d = useDegrees();
  return (
    <Two>
      <div>
        <small>Superheat</small>
        <Huge>
          {d.by(set.superheat_k)} {d.label}
        </Huge>
        <small>
          from the dew line, {d.at(set.dew_k)} {d.label}
        </small>
      </div>
      <div>
        <small>Subcooling</small>
        <Huge>
          {d.by(set.subcooling_k)} {d.label}
        </Huge>
        <small>
          from the bubble line, {d.at(set.bubble_k)} {d.label}
        </small>
      </div>
    </Two>
  );
}

/** All sets, one a row. */
export function Sets({
  sets,
  strike,
}: {
  sets: Set[];
  strike?: (s: Set) => React.ReactNode;
}) {
  const d = useDegrees();
  if (!sets.length) return null;
  const shown = (t: Schemas["Typed"] | null | undefined) => t?.typed ?? "–";
  return (
    <Table tabIndex={0} role="region" aria-label="Reading sets">
      <table>
        <thead>
          <tr>
            <th>Time</th>
            <th>Suction</th>
            <th>line</th>
            <th>Liquid</th>
            <th>line</th>
            <th>Superheat</th>
            <th>Subcooling</th>
            <th>Split</th>
            {strike && (
              <th>
                <HiddenText>Strike out</HiddenText>
              </th>
            )}
          </tr>
        </thead>
        <tbody>
          {sets.map((s) => (
            <tr key={s.id}>
              <td>
                {atClock(s.at_ms)}
                {s.when === "before" ? ", before" : ""}
                {s.mode === "heating" ? ", heating" : ""}
              </td>
              <td>{shown(s.set.suction)}</td>
              <td>{shown(s.set.suction_line)}</td>
              <td>{shown(s.set.liquid)}</td>
              <td>{shown(s.set.liquid_line)}</td>
              <td>{d.by(s.superheat_k)}</td>
              <td>{d.by(s.subcooling_k)}</td>
              <td>{d.by(s.split_k)}</td>
              {strike && <td>{strike(s)}</td>}
            </tr>
          ))}
        </tbody>
      </table>
    </Table>
  );
}

/** The next set begins as the last one stood: what is typed anew is only what has changed. */
const next = (last: Set | undefined): Doc => ({
  when: last?.when ?? "after",
  mode: last?.mode ?? "cooling",
  drive: last?.set.drive ?? "fixed",
  stage: last?.set.stage ?? "",
  outdoor: last?.set.outdoor ?? null,
  barometer: last?.set.barometer ?? null,
  aim_superheat: last?.set.aim_superheat ?? null,
  aim_subcooling: last?.set.aim_subcooling ?? null,
});

/** Reading sets of the running unit, until they stand still. */
export function StartUp({
  circuit,
  isReadOnly,
}: {
  circuit: Circuit;
  isReadOnly: boolean;
}) {
  const start = circuit.this_visit.start;
  const last = start.sets.at(-1);
  const [doc, setDoc] = useState<Doc>(() => next(last));
  const set = (part: Partial<Doc>) => setDoc({ ...doc, ...part });
  const save = useWrite(visit.set(circuit.id));
  const isTyped = doc.suction != null || doc.liquid != null;
  const { data, error } = useBench(
    `set ${circuit.id}`,
    isTyped ? { set: doc } : null,
    tried.set(circuit.id),
  );
  const degrees = useOffered("temperature");
  const pair = start.before_after;
  const before = pair && start.sets[pair.before];
  const after = pair && start.sets[pair.after];
  const submit = () => {
    save.mutate({ set: doc }, { onSuccess: () => setDoc(next(last)) });
  };
  return (
    <Box>
      <h2>Reading sets</h2>
      {start.words && (
        <Note
          {...(start.word === "off_target" && { $kind: "wrong" as const })}
          role="status"
        >
          {start.words}
        </Note>
      )}
      {last && <SetSays set={last} />}
      {start.patterns.map((p) => (
        <p key={p.words}>
          <strong>
            {p.is_likely ? "Likely" : "Possible"}: {p.words}
          </strong>{" "}
          {p.look}
        </p>
      ))}
      {before && after && (
        <Compared
          title="Before and after"
          heads={["Before", "After"]}
          sets={[before, after]}
        />
      )}
      <Twins circuit={circuit} />
      <Sets
        sets={start.sets}
        {...(!isReadOnly && {
          strike: (s: Set) => (
            <StrikeOut
              circuit={circuit.id}
              entry={s.id}
              what={`the set of ${atClock(s.at_ms)}`}
            />
          ),
        })}
      />
      {!isReadOnly && (
        <Form onSubmit={submit} save={save}>
          <Grid $min={215}>
            <Pressure
              label="Suction pressure"
              value={doc.suction}
              onChange={(suction) => set({ suction })}
              name="set.suction"
            />
            <Temperature
              label="Suction line there"
              value={doc.suction_line}
              onChange={(suction_line) => set({ suction_line })}
              name="set.suction_line"
            />
            <Pressure
              label="Liquid pressure"
              value={doc.liquid}
              onChange={(liquid) => set({ liquid })}
              name="set.liquid"
            />
            <Temperature
              label="Liquid line there"
              value={doc.liquid_line}
              onChange={(liquid_line) => set({ liquid_line })}
              name="set.liquid_line"
            />
            <Field
              label="Running for, min"
              value={doc.running_min ?? ""}
              onChange={(running_min) => set({ running_min })}
              inputMode="decimal"
              name="set.running_min"
            />
            <Temperature
              label="Outdoor air"
              value={doc.outdoor}
              onChange={(outdoor) => set({ outdoor })}
              name="set.outdoor"
            />
            <Temperature
              label="Return air"
              value={doc.return_air}
              onChange={(return_air) => set({ return_air })}
              name="set.return_air"
            />
            <Temperature
              label="Supply air"
              value={doc.supply_air}
              onChange={(supply_air) => set({ supply_air })}
              name="set.supply_air"
            />
          </Grid>
          <Closed>
            <summary>Mode, speed, what the maker wants, barometer</summary>
            <Grid $min={215}>
              <Pick
                label="This is how it"
                value={doc.when ?? "after"}
                onChange={(when) => set({ when })}
                options={[
                  { id: "after", text: "is left" },
                  { id: "before", text: "was found" },
                ]}
              />
              <Choice
                of="modes"
                label="Mode"
                value={doc.mode ?? "cooling"}
                onChange={(mode) => set({ mode })}
              />
              <Choice
                of="drives"
                label="Compressor"
                value={doc.drive ?? "fixed"}
                onChange={(drive) => set({ drive })}
              />
              <Field
                label="Stage"
                value={doc.stage ?? ""}
                onChange={(stage) => set({ stage })}
              />
              <TypedField
                label="Maker’s superheat"
                value={doc.aim_superheat}
                onChange={(aim_superheat) => set({ aim_superheat })}
                units={degrees}
                name="set.aim_superheat.typed"
              />
              <TypedField
                label="Maker’s subcooling"
                value={doc.aim_subcooling}
                onChange={(aim_subcooling) => set({ aim_subcooling })}
                units={degrees}
                name="set.aim_subcooling.typed"
              />
              <TypedField
                label="Barometer at the site"
                value={doc.barometer}
                onChange={(barometer) => set({ barometer })}
                units={[
                  { id: "hPa", text: "hPa" },
                  { id: "inHg", text: "inHg" },
                ]}
                name="set.barometer.typed"
                hint={`else ${(start.air_pa / 100).toFixed(0)} hPa is taken`}
              />
              <Field
                label="Note"
                value={doc.note ?? ""}
                onChange={(note) => set({ note })}
              />
            </Grid>
          </Closed>
          <div aria-live="polite">
            {isTyped && data && !error && <SetSays set={data} />}
            {isTyped && error && <p>{error.message}</p>}
          </div>
          <FormEnd>Keep this set</FormEnd>
        </Form>
      )}
    </Box>
  );
}
