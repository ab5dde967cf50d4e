import { figure } from "../units/typed";
import { useMay } from "../api/session";
import { LooksOn } from "../look/LooksOn";
import { useState } from "react";
import { useNavigate, useSearchParams } from "react-router";
import { useTitle } from "../look/title";
import styled from "styled-components";
import { Form, FormEnd } from "../form/Form";
import { type Schemas } from "../api/client";
import { useWrite, writes } from "../api/queries";
import { Button, Field, Grid, Quiet, Tag, Row } from "../look/parts";
import { Pick } from "../look/Pick";
import { notANumber, useUnits } from "../units/units";
import { Known } from "./Known";
import { QuickStart } from "./QuickStart";
import { RefrigerantFields, useSafetyOf, type Taken } from "./Refrigerant";

const Page = styled(Form)`
  max-width: 900px;
  margin: 0 auto;
  padding: 18px 20px 60px;
  display: grid;
  gap: 20px;
`;
const Around = styled.div`
  max-width: 900px;
  margin: 0 auto;
  padding: 18px 20px 0;
  display: grid;
  gap: 20px;
`;
const Part = styled.section`
  border-top: 1px solid var(--line);
  padding-top: 14px;
  display: grid;
  gap: 12px;
`;
const PlateRow = styled.div`
  display: grid;
  grid-template-columns:
    minmax(0, 2fr) minmax(0, 1fr) minmax(0, 1fr)
    96px 12em auto;
  gap: 8px;
  align-items: end;
  @media (max-width: 900px) {
    grid-template-columns: minmax(0, 1fr) minmax(0, 1fr) 96px;
    & > :first-child {
      grid-column: 1 / -1;
    }
  }
`;

interface Plate {
  part: string;
  low: string;
  high: string;
  unit: string;
  only_one: boolean;
}
interface Draft extends Taken {
  tag: string;
  name: string;
  /** Empty: nobody has said. It decides what is taken to be inside. */
  kind: Schemas["JobKind"] | "";
  scope: string;
  volume: string;
  plates: Plate[];
}

const PRESSURES = ["psig", "kPa", "bar", "MPa"];
const plateOf = (part: string, unit: string): Plate => ({
  part,
  low: "",
  high: "",
  unit,
  only_one: false,
});
const fresh = (tag: string, unit: string): Draft => ({
  tag,
  name: "",
  kind: "",
  refrigerant: "",
  isAnother: false,
  safety: "",
  scope: "",
  volume: "",
  plates: [plateOf("indoor coil", unit), plateOf("outdoor unit", unit)],
});

/** A new job: the few things that the first reading needs, or everything at once. */
export default function NewJob() {
  useTitle("New job");
  const [search] = useSearchParams();
  if (!useMay("work"))
    return (
      <Around>
        <h1>New job</h1>
        <LooksOn />
      </Around>
    );
  return search.has("all") ? (
    <Whole />
  ) : (
    <Around>
      <h1>New job</h1>
      <Known />
      <QuickStart />
    </Around>
  );
}

function Whole() {
  const { meta, chosen } = useUnits();
  const go = useNavigate();
  const save = useWrite(writes.job);
  const plateUnit = PRESSURES.includes(chosen.pressure)
    ? chosen.pressure
    : "psig";
  const safetyOf = useSafetyOf();
  const [site, setSite] = useState(meta.sites.length > 0 ? "" : "new");
  const [siteName, setSiteName] = useState("");
  const [place, setPlace] = useState("");
  const [system, setSystem] = useState({ name: "", model: "", serial: "" });
  const [circuits, setCircuits] = useState([fresh("A", plateUnit)]);
  const [problem, setProblem] = useState<string | null>(null);
  const change = (i: number, part: Partial<Draft>) =>
    setCircuits(circuits.map((c, k) => (k === i ? { ...c, ...part } : c)));
  const plate = (i: number, j: number, part: Partial<Plate>) =>
    change(i, {
      plates: (circuits[i]?.plates ?? []).map((p, k) =>
        k === j ? { ...p, ...part } : p,
      ),
    });
  // One unit for all plates; digits that were read off a plate stay.
  const unitOf = (unit: string) =>
    setCircuits(
      circuits.map((c) => ({
        ...c,
        plates: c.plates.map((p) => ({ ...p, unit })),
      })),
    );
  const submit = () => {
    const bad = notANumber(
      circuits.map((c) => [`Volume of circuit ${c.tag}`, c.volume]),
    );
    const unsaid = circuits.find((c) => !c.kind);
    const missing = !site
      ? "Say at which site."
      : unsaid && `Say what kind of job circuit ${unsaid.tag} is.`;
    const wrong = bad ?? missing ?? null;
    setProblem(wrong);
    if (wrong) return;
    const body: Schemas["JobInput"] = {
      site_id: site === "new" ? null : site,
      site_name: siteName,
      site_place: place,
      system_name: system.name,
      model: system.model,
      serial: system.serial,
      circuits: circuits.flatMap((c) =>
        c.kind === ""
          ? []
          : [
              {
                tag: c.tag,
                name: c.name,
                kind: c.kind,
                refrigerant: c.refrigerant,
                safety_class: safetyOf(c),
                scope: c.scope,
                volume_l: c.volume.trim() ? figure(c.volume) : null,
                plates: c.plates.filter(
                  (p) => p.low.trim() || p.high.trim() || p.part.trim(),
                ),
              },
            ],
      ),
    };
    save.mutate(body, {
      onSuccess: (made) => void go(`/circuits/${made.circuit_ids[0] ?? ""}`),
    });
  };
  return (
    <>
      <Around>
        <h1>New job</h1>
        <Known />
      </Around>
      <Page save={save} wrong={problem} onSubmit={submit}>
        <Part>
          <h2>Where</h2>
          <Grid>
            <Pick
              label="Site"
              value={site}
              onChange={setSite}
              options={[
                ...meta.sites.map((s) => ({ id: s.id, text: s.name })),
                { id: "new", text: "A new site" },
              ]}
            />
            {site === "new" && (
              <Field
                label="Name of the site"
                value={siteName}
                onChange={setSiteName}
                name="site_name"
              />
            )}
            {site === "new" && (
              <Field
                label="Place"
                value={place}
                onChange={setPlace}
                hint="address, roof, plant room"
              />
            )}
          </Grid>
        </Part>
        <Part>
          <h2>System</h2>
          <Grid>
            <Field
              label="What it is called"
              value={system.name}
              onChange={(name) => setSystem({ ...system, name })}
              placeholder="Dough room split"
              name="system_name"
            />
            <Field
              label="Model"
              value={system.model}
              onChange={(model) => setSystem({ ...system, model })}
            />
            <Field
              label="Serial number"
              value={system.serial}
              onChange={(serial) => setSystem({ ...system, serial })}
            />
          </Grid>
        </Part>
        {circuits.map((c, i) => (
          <Part key={i} aria-label={`Circuit ${c.tag}`}>
            <Row>
              <Tag tag={c.tag || "?"} isSmall />
              <h2>Circuit {c.tag}</h2>
              {circuits.length > 1 && (
                <Quiet
                  onPress={() =>
                    setCircuits(circuits.filter((_, k) => k !== i))
                  }
                >
                  Remove
                </Quiet>
              )}
            </Row>
            <Grid>
              <Field
                label="Letter on the unit"
                value={c.tag}
                onChange={(tag) =>
                  change(i, { tag: tag.toUpperCase().slice(0, 3) })
                }
                name={`circuits.${i}.tag`}
              />
              <Field
                label="Name of the circuit"
                value={c.name}
                onChange={(name) => change(i, { name })}
                placeholder="Line set and indoor coil"
                name={`circuits.${i}.name`}
              />
              <Pick
                label="Kind of job"
                value={c.kind}
                onChange={(kind) => change(i, { kind })}
                options={meta.job_kinds.map((k) => ({
                  id: k.code,
                  text: k.title,
                }))}
                hint="decides which stages there are, and what is taken to be inside"
              />
              <RefrigerantFields
                value={c}
                onChange={(part) => change(i, part)}
                at={`circuits.${i}.`}
              />
              <Field
                label="Under test"
                value={c.scope}
                onChange={(scope) => change(i, { scope })}
                hint="which parts, which valves are shut"
              />
              <Field
                label="Volume, L (if known)"
                value={c.volume}
                onChange={(volume) => change(i, { volume })}
                inputMode="decimal"
                name={`circuits.${i}.volume_l`}
              />
            </Grid>
            <h2>Rating plates</h2>
            <p>
              Read both design pressures on the plate of every part. The lowest
              one that the gas reaches is the ceiling.
            </p>
            {c.plates.map((p, j) => (
              <PlateRow
                key={j}
                role="group"
                aria-label={`Plate of ${p.part || `part ${j + 1}`}`}
              >
                <Field
                  label="Part"
                  value={p.part}
                  onChange={(part) => plate(i, j, { part })}
                  name={`circuits.${i}.plates.${j}.part`}
                />
                <Field
                  label={p.only_one ? "The only figure" : "High side"}
                  value={p.high}
                  onChange={(high) => plate(i, j, { high })}
                  inputMode="decimal"
                  name={`circuits.${i}.plates.${j}.high`}
                />
                <Field
                  label="Low side"
                  value={p.only_one ? "" : p.low}
                  isDisabled={p.only_one}
                  onChange={(low) => plate(i, j, { low })}
                  inputMode="decimal"
                  name={`circuits.${i}.plates.${j}.low`}
                />
                <Pick
                  label="Unit"
                  value={p.unit}
                  onChange={unitOf}
                  options={PRESSURES.map((id) => ({ id, text: id }))}
                />
                <Quiet
                  aria-pressed={p.only_one}
                  onPress={() =>
                    plate(i, j, { only_one: !p.only_one, low: "" })
                  }
                >
                  {p.only_one ? "Both figures" : "Only one on the plate"}
                </Quiet>
                <Quiet
                  aria-label={`Remove plate ${p.part}`}
                  onPress={() =>
                    change(i, { plates: c.plates.filter((_, k) => k !== j) })
                  }
                >
                  Remove
                </Quiet>
              </PlateRow>
            ))}
            <Row>
              <Button
                onPress={() =>
                  change(i, {
                    plates: [
                      ...c.plates,
                      plateOf("", c.plates[0]?.unit ?? plateUnit),
                    ],
                  })
                }
              >
                Another plate
              </Button>
            </Row>
          </Part>
        ))}
        <Row>
          <Button
            onPress={() =>
              setCircuits([
                ...circuits,
                fresh(
                  String.fromCharCode(65 + circuits.length),
                  circuits[0]?.plates[0]?.unit ?? plateUnit,
                ),
              ])
            }
          >
            Another circuit in this system
          </Button>
        </Row>
        <FormEnd>Start the job</FormEnd>
      </Page>
    </>
  );
}
