import { NumberField } from "../../../form/NumberField";
import { Camera, Plus, Square } from "lucide-react";
import { useState } from "react";
import { FileTrigger } from "react-aria-components";
import styled from "styled-components";
import { Form, Said } from "../../../form/Form";
import { type Schemas } from "../../../api/client";
import { sendPhoto, useWrite, writes } from "../../../api/queries";
import {
  Button,
  Field,
  Grid,
  Mono,
  Primary,
  Trouble,
} from "../../../look/parts";
import { Pick } from "../../../look/Pick";
import { MassField } from "../../../look/Mass";
import { litres, trimmed, useUnits } from "../../../units/units";
import { VolumeFromBottle } from "../../bench/VolumeFromBottle";
import {
  ComponentRow,
  JointRow,
  Thing,
  TubeRow,
  ValveRow,
  type Doc,
} from "./rows";
import { Schematic } from "./Schematic";

const Box = styled(Form)`
  display: grid;
  grid-template-columns: minmax(0, 1fr);
  gap: 16px;
  fieldset {
    border: 0;
    margin: 0;
    padding: 0;
    min-width: 0;
  }
  legend {
    font-size: var(--t-lead);
    font-weight: 650;
    padding: 0;
    margin-bottom: 4px;
  }
`;
const Facts = styled.dl`
  display: grid;
  grid-template-columns: max-content minmax(0, 1fr);
  gap: 4px 16px;
  dt {
    color: var(--soft);
  }
  dd {
    overflow-wrap: anywhere;
  }
  b {
    font-family: var(--mono);
    font-size: var(--t-lead);
  }
`;
const Measure = styled.details`
  summary {
    min-height: 48px;
    padding: 12px 0;
    cursor: pointer;
    font-weight: 600;
  }
`;
const Ticks = styled.ul`
  display: flex;
  flex-wrap: wrap;
  gap: 8px;
  padding: 6px 0 12px;
`;
const Keep = styled.div`
  position: sticky;
  bottom: 0;
  z-index: 2;
  background: var(--paper);
  border-top: 2px solid var(--ink);
  padding: 10px 0;
  display: flex;
  gap: 12px;
  align-items: center;
  flex-wrap: wrap;
`;

type List = "sections" | "components" | "tubes" | "joints" | "valves";

/** What a section under test holds, may take, and what bounds it. */
function SectionFacts({ section }: { section: Schemas["SectionView"] }) {
  const units = useUnits();
  const band = litres(section.volume_low_l, section.volume_high_l);
  return (
    <div>
      <h3>{section.name}</h3>
      <Facts>
        <dt>Ceiling</dt>
        <dd>
          {section.ceiling_pa == null ? (
            "no plate read yet"
          ) : (
            <>
              <b>{trimmed(units.of("pressure", section.ceiling_pa))}</b>{" "}
              {units.label("pressure")}, {section.ceiling_name}
            </>
          )}
        </dd>
        <dt>Volume</dt>
        <dd>
          <b>{band}</b> L{section.volume_is_measured ? "" : ", partly assumed"}
        </dd>
        {section.bounds.length > 0 && (
          <>
            <dt>Bounded by</dt>
            <dd>{section.bounds.join("; ")}</dd>
          </>
        )}
        {section.missing.length > 0 && (
          <>
            <dt>Still open</dt>
            <dd>{section.missing.join(" ")}</dd>
          </>
        )}
      </Facts>
    </div>
  );
}

/** The survey as a document: kept as a whole, each version stays. */
export default function Survey({
  circuit,
  isReadOnly,
}: {
  circuit: Schemas["CircuitView"];
  isReadOnly: boolean;
}) {
  const view = circuit.survey;
  // Until something is changed here the newest version is shown; a change remembers which one it began from.
  const [draft, setDraft] = useState<{ doc: Doc; version: number } | null>(
    null,
  );
  const doc = draft?.doc ?? view.survey;
  const setDoc = (next: Doc) =>
    setDraft({ doc: next, version: draft?.version ?? view.version });
  const save = useWrite(writes.survey(circuit.id));
  const photo = useWrite((f: File) => sendPhoto(circuit.id, f));
  const isChanged =
    draft !== null && JSON.stringify(doc) !== JSON.stringify(view.survey);
  const first =
    doc.sections?.find((s) => s.is_tested)?.name ??
    doc.sections?.[0]?.name ??
    "";
  const list = <T,>(name: List) => (doc[name] ?? []) as T[];
  const put = (name: List, items: unknown[]) =>
    setDoc({ ...doc, [name]: items });
  const row = <T extends object>(name: List, it: T, at: number) => ({
    it,
    at,
    doc,
    set: (part: Partial<T>) =>
      put(
        name,
        list<T>(name).map((x, k) => (k === at ? { ...x, ...part } : x)),
      ),
    remove: () =>
      put(
        name,
        list<T>(name).filter((_, k) => k !== at),
      ),
    photo: (onMade: (id: string) => void) => (
      <FileTrigger
        acceptedFileTypes={["image/jpeg", "image/png", "image/webp"]}
        defaultCamera="environment"
        onSelect={(files) => {
          const f = files?.[0];
          if (f) photo.mutate(f, { onSuccess: onMade });
        }}
      >
        <Button>
          <Camera size={19} aria-hidden />
          Photo of the plate
        </Button>
      </FileTrigger>
    ),
  });
  const rename = (at: number, name: string) => {
    const old = doc.sections?.[at]?.name;
    const swap = <T extends { section: string }>(items: T[] | undefined) =>
      (items ?? []).map((x) =>
        x.section === old ? { ...x, section: name } : x,
      );
    setDoc({
      ...doc,
      sections: (doc.sections ?? []).map((s, k) =>
        k === at ? { ...s, name } : s,
      ),
      components: swap(doc.components),
      tubes: swap(doc.tubes),
      joints: swap(doc.joints),
      valves: swap(doc.valves).map((v) =>
        v.other === old ? { ...v, other: name } : v,
      ),
    });
  };
  const open = (doc.joints ?? [])
    .map((j, i) => ({ j, i }))
    .filter(({ j }) => j.kind === "flare" && j.name && !j.is_torqued);
  // One tick is kept at once, unless something else is being changed: then it goes with that.
  const tick = (at: number) => {
    const next = {
      ...doc,
      joints: (doc.joints ?? []).map((j, k) =>
        k === at ? { ...j, is_torqued: true } : j,
      ),
    };
    if (draft) setDoc(next);
    else save.mutate({ survey: next, version: view.version });
  };
  const add = (name: List, text: string, fresh: object) => (
    <span>
      <Button onPress={() => put(name, [...list(name), fresh])}>
        <Plus size={18} aria-hidden />
        {text}
      </Button>
    </span>
  );
  return (
    <Box
      aria-label="Survey"
      save={save}
      onSubmit={() => {
        if (draft)
          save.mutate(
            { survey: doc, version: draft.version },
            { onSuccess: () => setDraft(null) },
          );
      }}
    >
      <h2>Survey</h2>
      <Schematic survey={doc} />
      <Grid $min={260}>
        {view.sections
          .filter((s) => s.is_tested || view.sections.length === 1)
          .map((s) => (
            <SectionFacts key={s.name} section={s} />
          ))}
      </Grid>
      <fieldset disabled={isReadOnly}>
        <legend>Parts and their plates</legend>
        {(doc.components ?? []).map((c, i) => (
          <ComponentRow key={i} {...row("components", c, i)} />
        ))}
        {add("components", "A part", {
          name: "",
          place: "indoor",
          section: first,
          model: "",
          serial: "",
        })}
      </fieldset>
      <fieldset disabled={isReadOnly}>
        <legend>Tubes of the line set</legend>
        {(doc.tubes ?? []).map((t, i) => (
          <TubeRow key={i} {...row("tubes", t, i)} />
        ))}
        {add("tubes", "A tube", {
          size: "3/8 in",
          length: null,
          section: first,
        })}
      </fieldset>
      <fieldset disabled={isReadOnly}>
        <legend>Valves that bound what is under test</legend>
        {(doc.valves ?? []).map((v, i) => (
          <ValveRow key={i} {...row("valves", v, i)} />
        ))}
        {add("valves", "A valve", {
          name: "",
          section: first,
          is_shut: true,
          behind: "unknown",
          other: null,
        })}
      </fieldset>
      <fieldset disabled={isReadOnly}>
        <legend>Joints made today</legend>
        {open.length > 0 && !isReadOnly && (
          <Ticks aria-label="Flares to tighten, one by one">
            {open.map(({ j, i }) => (
              <li key={i}>
                <Button isDisabled={save.isPending} onPress={() => tick(i)}>
                  <Square size={19} aria-hidden />
                  Tighten {j.name} to{" "}
                  {j.torque
                    ? `${j.torque.typed} ${j.torque.unit === "lbft" ? "lb·ft" : "N·m"}`
                    : "the maker’s torque"}
                </Button>
              </li>
            ))}
          </Ticks>
        )}
        {(doc.joints ?? []).map((j, i) => (
          <JointRow key={i} {...row("joints", j, i)} />
        ))}
        {add("joints", "A joint", {
          name: "",
          kind: "flare",
          section: first,
          torque: null,
          is_torqued: false,
        })}
      </fieldset>
      <fieldset disabled={isReadOnly}>
        <legend>Sections</legend>
        {(doc.sections ?? []).map((s, i) => {
          const { set, remove } = row("sections", s, i);
          return (
            <Thing
              key={i}
              name={s.name}
              says={`${s.is_tested ? "under test" : "not tested"}${s.gauge ? ` · gauge at ${s.gauge}` : ""}`}
              onRemove={remove}
              isNew={!s.name}
            >
              <Grid $min={170}>
                <Field
                  label="Name of the section"
                  value={s.name}
                  onChange={(name) => rename(i, name)}
                  name={`sections.${i}.name`}
                />
                <Pick
                  label="Is"
                  value={s.is_tested ? "yes" : "no"}
                  onChange={(v) => set({ is_tested: v === "yes" })}
                  options={[
                    { id: "yes", text: "under test" },
                    { id: "no", text: "not tested" },
                  ]}
                />
                <NumberField
                  label="Volume as measured, L"
                  value={s.volume_l}
                  onChange={(volume_l) => set({ volume_l })}
                  hint="goes before parts and tubes"
                  name={`sections.${i}.volume_l`}
                />
                <Field
                  label="Gauge sits at"
                  value={s.gauge ?? ""}
                  onChange={(gauge) => set({ gauge })}
                  placeholder="vapour service port"
                />
              </Grid>
              <Measure>
                <summary>Measure it from the bottle</summary>
                <VolumeFromBottle
                  onUse={(l) => set({ volume_l: Number(l.toFixed(2)) })}
                />
              </Measure>
            </Thing>
          );
        })}
        {add("sections", "A section", { name: "", is_tested: true, gauge: "" })}
      </fieldset>
      <fieldset disabled={isReadOnly}>
        <legend>Charge of the circuit</legend>
        <Grid $min={230}>
          <MassField
            label="Nameplate charge"
            value={doc.charge}
            onChange={(charge) => setDoc({ ...doc, charge })}
            name="charge"
            hint="for leaks as a share of it"
            first="lb"
          />
        </Grid>
      </fieldset>
      <Said />
      <Trouble of={photo.error} />
      {isChanged && !isReadOnly && (
        <Keep>
          <Primary type="submit" isDisabled={save.isPending}>
            Keep this survey
          </Primary>
          <Button
            onPress={() => {
              setDraft(null);
              save.reset();
            }}
          >
            Discard
          </Button>
          <span>
            version <Mono>{draft.version}</Mono> stays as it was
          </span>
        </Keep>
      )}
    </Box>
  );
}
