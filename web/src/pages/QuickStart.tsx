import type { Ref } from "react";
import { ToggleButton } from "react-aria-components";
import { useNavigate } from "react-router";
import styled from "styled-components";
import { client, told, type Schemas } from "../api/client";
import { useWrite, writes } from "../api/queries";
import { Combo } from "../look/Combo";
import { useEntry } from "../form/entry";
import { Form, FormEnd } from "../form/Form";
import { choice, text as typed, value } from "../form/schema";
import { Fault, Field, Grid, Named } from "../look/parts";
import { Way } from "../look/Way";
import { useUnits } from "../units/units";
import { begun } from "./circuit/plan";
import {
  RefrigerantFields,
  takenFields,
  takenOf,
  useSafetyOf,
} from "./Refrigerant";

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

const FIELDS = {
  site_name: typed("Site", { asks: "Where is it? Type the site." }),
  kind: choice<Schemas["JobKind"] | "">(
    "Kind of job",
    "",
    "What kind of job is it?",
  ),
  ...takenFields("Which refrigerant?"),
  plate: value("pressure", "Lowest figure on any plate", {
    asks: "What may the weakest plate take?",
  }),
};

/** What a job is called that nobody named: where it is, and the day. */
const named = (site: string) =>
  `${site}, ${new Date().toLocaleDateString(undefined, { day: "numeric", month: "short" })}`;

/** The shortest way to the first reading: where, what kind, which refrigerant, what the weakest plate may take. */
export function QuickStart() {
  const units = useUnits();
  const { meta, chosen } = units;
  const safetyOf = useSafetyOf();
  const go = useNavigate();
  const entry = useEntry(FIELDS);
  const { field, text } = entry;
  const taken = takenOf(entry);
  const save = useWrite(async (body: Schemas["JobInput"]) => {
    const made = await writes.job(body);
    const id = made.circuit_ids[0] ?? "";
    const circuit = await told(
      client.GET("/api/circuits/{id}", {
        params: { path: { id }, query: chosen },
      }),
    );
    const hold = begun(meta, "pressure-hold", circuit.begins.holds);
    // Where something must come before the first gas, the page of the circuit says so.
    const test =
      hold &&
      (await writes
        .test(id, { pressure: chosen.pressure })(hold)
        .catch(() => null));
    return test
      ? `/circuits/${id}?stage=hold&test=${test.id}`
      : `/circuits/${id}`;
  });
  const submit = () => {
    const { site_name: site, kind, plate } = text;
    if (!kind) return;
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
            refrigerant: text.refrigerant,
            safety_class: safetyOf(taken.value),
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
    <Page
      save={save}
      entry={entry}
      also={{
        "circuits.0.refrigerant": "refrigerant",
        "circuits.0.plates.0.high": "plate",
      }}
      onSubmit={submit}
    >
      <Combo
        {...field("site_name")}
        options={meta.sites.map((s) => s.name)}
        placeholder="type to find, or a new one"
      />
      <div role="group" aria-label="Kind of job">
        <Named as="span">Kind of job</Named>
        <Kinds>
          {meta.job_kinds.map((k, i) => (
            <Kind
              key={k.code}
              isSelected={text.kind === k.code}
              onChange={() =>
                field("kind").onChange(k.code as Schemas["JobKind"])
              }
              {...(i === 0 && {
                ref: field("kind").inputRef as Ref<HTMLButtonElement>,
              })}
            >
              {k.title}
            </Kind>
          ))}
        </Kinds>
        {field("kind").error && <Fault>{field("kind").error}</Fault>}
      </div>
      <Grid>
        <RefrigerantFields {...taken} asked={field("refrigerant")} />
        <Field {...field("plate")} hint="nitrogen never goes above it" />
      </Grid>
      <FormEnd others={<Way to="/jobs/new?all">Fill in everything</Way>}>
        Press up
      </FormEnd>
    </Page>
  );
}
