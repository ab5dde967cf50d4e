import { useState, type FormEvent } from "react";
import { ToggleButton } from "react-aria-components";
import { useNavigate } from "react-router";
import styled from "styled-components";
import { client, Refusal, told, type Schemas } from "../api/client";
import { useWrite, writes } from "../api/queries";
import { Combo } from "../look/Combo";
import { Form } from "../look/Form";
import { Field, Grid, Named, Note, Primary } from "../look/parts";
import { Way } from "../look/Way";
import { notANumber, useUnits } from "../units/units";
import { firstHold } from "./circuit/firstHold";
import { RefrigerantFields, useSafetyOf } from "./Refrigerant";

const Page = styled(Form)`
  display: grid;
  gap: 14px;
`;
const Kinds = styled.div`
  display: grid;
  grid-template-columns: repeat(auto-fit, minmax(min(100%, 250px), 1fr));
  gap: 8px;
`;
const Kind = styled(ToggleButton)`
  min-height: 48px;
  padding: 0.3em 0.9em;
  border: 1.5px solid var(--edge);
  border-radius: 8px;
  background: transparent;
  color: var(--ink);
  font-weight: 550;
  text-align: left;
  cursor: pointer;
  &[data-selected] {
    border-color: var(--accent);
    background: var(--accent-wash);
    box-shadow: inset 4px 0 0 var(--accent);
  }
`;
const Row = styled.div`
  display: flex;
  flex-wrap: wrap;
  gap: 12px;
  align-items: center;
`;

/** What a job is called that nobody named: where it is, and the day. */
const named = (site: string) =>
  `${site}, ${new Date().toLocaleDateString(undefined, { day: "numeric", month: "short" })}`;

/** The shortest way to the first reading: where, what kind, which refrigerant, what the weakest plate may take. */
export function QuickStart() {
  const units = useUnits();
  const { meta, chosen, label } = units;
  const safetyOf = useSafetyOf();
  const go = useNavigate();
  const [site, setSite] = useState("");
  const [kind, setKind] = useState<Schemas["JobKind"] | "">("");
  const [taken, setTaken] = useState({
    refrigerant: "",
    isAnother: false,
    safety: "",
  });
  const [plate, setPlate] = useState("");
  const [problem, setProblem] = useState<string | null>(null);
  const save = useWrite(async (body: Schemas["JobInput"]) => {
    const made = await writes.job(body);
    const id = made.circuit_ids[0] ?? "";
    const circuit = await told(
      client.GET("/api/circuits/{id}", {
        params: { path: { id }, query: { pressure: chosen.pressure } },
      }),
    );
    // Where something must come before the first gas, the page of the circuit says so.
    const test = await writes
      .test(id, { pressure: chosen.pressure })(firstHold(circuit, units))
      .catch(() => null);
    return test
      ? `/circuits/${id}?stage=hold&test=${test.id}`
      : `/circuits/${id}`;
  });
  const refusal = save.error instanceof Refusal ? save.error : null;
  const submit = (e: FormEvent) => {
    e.preventDefault();
    const bad =
      (site.trim() ? null : "Where is it? Type the site.") ??
      (kind ? null : "What kind of job is it?") ??
      (taken.refrigerant ? null : "Which refrigerant?") ??
      (plate.trim() ? null : "What may the weakest plate take?") ??
      notANumber([["Lowest figure", plate]]);
    setProblem(bad);
    if (bad || !kind) return;
    const known = meta.sites.find(
      (s) => s.name.toLowerCase() === site.trim().toLowerCase(),
    );
    const system = named(site.trim());
    save.mutate(
      {
        site_id: known?.id ?? null,
        site_name: site,
        site_place: "",
        system_name: system,
        circuits: [
          {
            tag: "A",
            name: meta.job_kinds.find((k) => k.code === kind)?.title ?? system,
            kind,
            refrigerant: taken.refrigerant,
            safety_class: safetyOf(taken),
            scope: "",
            volume_l: null,
            plates: [
              {
                part: "all plates, the lowest figure",
                high: plate,
                low: "",
                unit: chosen.pressure,
                only_one: true,
              },
            ],
          },
        ],
      },
      { onSuccess: (to) => void go(to) },
    );
  };
  return (
    <Page refusal={refusal} onSubmit={submit}>
      <Combo
        label="Site"
        value={site}
        onChange={setSite}
        options={meta.sites.map((s) => s.name)}
        name="site_name"
        placeholder="type to find, or a new one"
      />
      <div role="group" aria-label="Kind of job">
        <Named as="span">Kind of job</Named>
        <Kinds>
          {meta.job_kinds.map((k) => (
            <Kind
              key={k.code}
              isSelected={kind === k.code}
              onChange={() => setKind(k.code as Schemas["JobKind"])}
            >
              {k.title}
            </Kind>
          ))}
        </Kinds>
      </div>
      <Grid>
        <RefrigerantFields
          value={taken}
          onChange={(part) => setTaken({ ...taken, ...part })}
          at="circuits.0."
        />
        <Field
          label={`Lowest figure on any plate, ${label("pressure")}`}
          value={plate}
          onChange={setPlate}
          inputMode="decimal"
          name="circuits.0.plates.0.high"
          hint="nitrogen never goes above it"
        />
      </Grid>
      {(problem ?? (refusal?.field ? null : save.error)) && (
        <Note $kind="wrong" role="alert">
          {problem ?? save.error?.message}
        </Note>
      )}
      <Row>
        <Primary type="submit" isDisabled={save.isPending}>
          Press up
        </Primary>
        <Way to="/jobs/new?all">Fill in everything</Way>
      </Row>
    </Page>
  );
}
