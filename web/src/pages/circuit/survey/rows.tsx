import { NumberField } from "../../../form/NumberField";
import { Trash2 } from "lucide-react";
import { useState, type ReactNode } from "react";
import styled from "styled-components";
import type { Schemas } from "../../../api/client";
import { Field, Grid, Quiet } from "../../../look/parts";
import { Pick } from "../../../look/Pick";
import { useUnits } from "../../../units/units";
import { here } from "../../../api/room";

export type Doc = Schemas["SurveyDoc"];
type Typed = Schemas["Typed"];

export const Item = styled.details`
  border-top: 1px solid var(--line);
  summary {
    min-height: 48px;
    padding: 11px 4px;
    cursor: pointer;
    display: flex;
    gap: 0.6em;
    align-items: baseline;
    flex-wrap: wrap;
  }
  summary::before {
    content: "›";
    font-weight: 700;
    color: var(--accent);
  }
  &[open] summary::before {
    content: "⌄";
  }
  summary strong {
    font-weight: 620;
  }
  summary span {
    color: var(--soft);
  }
  & > div {
    padding: 0 0 14px 1.1em;
    display: grid;
    gap: 10px;
  }
`;

/** One thing of the survey: a line when closed, its fields when open. */
export function Thing({
  name,
  says,
  children,
  onRemove,
  isNew,
}: {
  name: string;
  says: ReactNode;
  children: ReactNode;
  onRemove: () => void;
  isNew: boolean;
}) {
  // It stays open while it is being filled in.
  const [wasNew] = useState(isNew);
  return (
    <Item
      open={wasNew || undefined}
      role="group"
      aria-label={name || "unnamed"}
    >
      <summary>
        <strong>{name || "unnamed"}</strong> <span>{says}</span>
      </summary>
      <div>
        {children}
        <span>
          <Quiet onPress={onRemove} aria-label={`Remove ${name || "this"}`}>
            <Trash2 size={18} aria-hidden />
            Remove
          </Quiet>
        </span>
      </div>
    </Item>
  );
}

/** A figure as typed with its unit; empty means not known. */
export function TypedField({
  label,
  value,
  onChange,
  units,
  name,
  hint,
}: {
  label: string;
  value: Typed | null | undefined;
  onChange: (v: Typed | null) => void;
  units: { id: string; text: string }[];
  name?: string;
  hint?: string;
}) {
  const unit = value?.unit ?? units[0]?.id ?? "";
  return (
    <Pair role="group" aria-label={label}>
      <Field
        label={label}
        value={value?.typed ?? ""}
        onChange={(typed) => onChange(typed.trim() ? { typed, unit } : null)}
        inputMode="decimal"
        {...(name && { name })}
        hint={hint}
      />
      <Pick
        label="Unit"
        value={unit}
        onChange={(u) => onChange({ typed: value?.typed ?? "", unit: u })}
        options={units}
      />
    </Pair>
  );
}
const Pair = styled.div`
  display: grid;
  grid-template-columns: minmax(0, 1fr) 104px;
  gap: 6px;
  align-items: start;
`;

export const PRESSURES = ["psig", "kPa", "bar", "MPa"].map((id) => ({
  id,
  text: id,
}));
const LENGTHS = [
  { id: "ft", text: "ft" },
  { id: "m", text: "m" },
];
/** Units of length, the one first that goes with the pressure on screen. */
export function useLengths() {
  const { chosen } = useUnits();
  return chosen.pressure === "psig" ? LENGTHS : LENGTHS.toReversed();
}
export const TORQUES = [
  { id: "Nm", text: "N·m" },
  { id: "lbft", text: "lb·ft" },
];
export const PLACES = [
  { id: "indoor", text: "indoors" },
  { id: "line", text: "in the line" },
  { id: "outdoor", text: "outdoors" },
];

const shown = (t: Typed | null | undefined) =>
  t ? `${t.typed} ${{ Nm: "N·m", lbft: "lb·ft" }[t.unit] ?? t.unit}` : null;

interface RowProps<T> {
  it: T;
  at: number;
  set: (part: Partial<T>) => void;
  remove: () => void;
  doc: Doc;
  photo: (onMade: (id: string) => void) => ReactNode;
}

export function SectionPick({
  doc,
  value,
  onChange,
}: {
  doc: Doc;
  value: string;
  onChange: (s: string) => void;
}) {
  if ((doc.sections?.length ?? 0) < 2) return null;
  return (
    <Pick
      label="Section"
      value={value}
      onChange={onChange}
      options={(doc.sections ?? []).map((s) => ({ id: s.name, text: s.name }))}
    />
  );
}

export function ComponentRow({
  it,
  at,
  set,
  remove,
  doc,
  photo,
}: RowProps<Schemas["ComponentDoc"]>) {
  const field = (f: string) => `components.${at}.${f}`;
  const says = [
    PLACES.find((p) => p.id === it.place)?.text,
    it.low && `low side ${shown(it.low)}`,
    it.high && `${it.low ? "high side " : ""}${shown(it.high)}`,
    !it.high && !it.low && "plate not read",
    it.only_one && "the only figure on the plate",
    it.volume_l ? `${it.volume_l} L` : null,
  ]
    .filter(Boolean)
    .join(" · ");
  // One unit for all plates: that of the first one that was read.
  const first = (doc.components ?? []).flatMap((c) => [c.high, c.low]);
  const unit = first.find((x) => x?.typed)?.unit;
  const plates = PRESSURES.toSorted(
    (a, b) => Number(b.id === unit) - Number(a.id === unit),
  );
  return (
    <Thing name={it.name} says={says} onRemove={remove} isNew={!it.name}>
      <Grid $min={170}>
        <Field
          label="Part"
          value={it.name}
          onChange={(name) => set({ name })}
          name={field("name")}
          placeholder="indoor coil"
        />
        <Pick
          label="Stands"
          value={it.place}
          onChange={(place) => set({ place })}
          options={PLACES}
        />
        <SectionPick
          doc={doc}
          value={it.section}
          onChange={(section) => set({ section })}
        />
        <Field
          label="Model"
          value={it.model ?? ""}
          onChange={(model) => set({ model })}
        />
        <Field
          label="Serial number"
          value={it.serial ?? ""}
          onChange={(serial) => set({ serial })}
        />
        <NumberField
          label="Inside volume, L"
          value={it.volume_l}
          onChange={(volume_l) => set({ volume_l })}
          hint="empty: a usual range is assumed"
          name={field("volume_l")}
        />
      </Grid>
      <Grid $min={230}>
        <TypedField
          label="Plate, high side"
          value={it.high}
          onChange={(high) => set({ high })}
          units={plates}
          name={field("high.typed")}
          hint="or the part’s only rating"
        />
        <Pick
          label="On the plate"
          value={it.only_one ? "one" : "two"}
          onChange={(v) => set({ only_one: v === "one" })}
          options={[
            { id: "two", text: "both sides’ figures" },
            { id: "one", text: "only one figure" },
          ]}
        />
        <TypedField
          label="Plate, low side"
          value={it.low}
          onChange={(low) => set({ low })}
          units={plates}
          name={field("low.typed")}
        />
        <Plate>
          {it.photo_id && (
            <a
              href={here(`/api/photos/${it.photo_id}`)}
              target="_blank"
              rel="noreferrer"
            >
              <img
                src={here(`/api/photos/${it.photo_id}`)}
                alt={`Plate of ${it.name}`}
              />
            </a>
          )}
          {photo((photo_id) => set({ photo_id }))}
        </Plate>
      </Grid>
    </Thing>
  );
}
const Plate = styled.div`
  display: flex;
  gap: 10px;
  align-items: center;
  img {
    height: 96px;
    max-width: 160px;
    object-fit: cover;
    border: 1px solid var(--edge);
    border-radius: 6px;
    display: block;
  }
`;

export function TubeRow({
  it,
  at,
  set,
  remove,
  doc,
}: RowProps<Schemas["TubeDoc"]>) {
  const lengths = useLengths();
  const { meta } = useUnits();
  return (
    <Thing
      name={`${it.size} tube`}
      says={shown(it.length) ?? "length not measured"}
      onRemove={remove}
      isNew={!it.length}
    >
      <Grid $min={170}>
        <Pick
          label="Size"
          value={it.size}
          onChange={(size) => set({ size })}
          options={meta.tubes.map((t) => ({ id: t.code, text: t.title }))}
          name={`tubes.${at}.size`}
        />
        <TypedField
          label="Length"
          value={it.length}
          onChange={(length) => set({ length })}
          units={lengths}
          name={`tubes.${at}.length.typed`}
          hint="empty: 5 to 25 m is assumed"
        />
        <SectionPick
          doc={doc}
          value={it.section}
          onChange={(section) => set({ section })}
        />
      </Grid>
    </Thing>
  );
}

export function ValveRow({
  it,
  at,
  set,
  remove,
  doc,
}: RowProps<Schemas["ValveDoc"]>) {
  const { meta } = useUnits();
  const behind = meta.behinds.filter(
    (b) => b.code !== "section" || (doc.sections?.length ?? 0) > 1,
  );
  const beyond =
    it.behind === "section"
      ? it.other
      : meta.behinds.find((b) => b.code === it.behind)?.title;
  return (
    <Thing
      name={it.name}
      says={`${it.is_shut ? "shut" : "open"} · behind it ${beyond ?? "not said"}`}
      onRemove={remove}
      isNew={!it.name}
    >
      <Grid $min={170}>
        <Field
          label="Valve"
          value={it.name}
          onChange={(name) => set({ name })}
          name={`valves.${at}.name`}
          placeholder="liquid service valve"
        />
        <Pick
          label="Is"
          value={it.is_shut ? "shut" : "open"}
          onChange={(v) => set({ is_shut: v === "shut" })}
          options={[
            { id: "shut", text: "shut" },
            { id: "open", text: "open" },
          ]}
        />
        <SectionPick
          doc={doc}
          value={it.section}
          onChange={(section) => set({ section })}
        />
        <Pick
          label="Behind it stands"
          value={it.behind}
          onChange={(b) =>
            set({
              behind: b,
              other:
                b === "section"
                  ? (doc.sections?.find((s) => s.name !== it.section)?.name ??
                    null)
                  : null,
            })
          }
          options={behind.map((b) => ({ id: b.code, text: b.title }))}
        />
        {it.behind === "section" && (
          <Pick
            label="Which section"
            value={it.other ?? ""}
            onChange={(other) => set({ other })}
            options={(doc.sections ?? [])
              .filter((s) => s.name !== it.section)
              .map((s) => ({ id: s.name, text: s.name }))}
            name={`valves.${at}.other`}
          />
        )}
      </Grid>
    </Thing>
  );
}

export function JointRow({
  it,
  at,
  set,
  remove,
  doc,
}: RowProps<Schemas["JointDoc"]>) {
  const { meta } = useUnits();
  const kind =
    meta.joint_kinds.find((k) => k.code === it.kind)?.title ?? it.kind;
  const says =
    it.kind !== "flare"
      ? kind
      : `${kind} · ${it.is_torqued ? `tightened to ${shown(it.torque) ?? "the maker’s torque"}` : "not tightened yet"}`;
  return (
    <Thing name={it.name} says={says} onRemove={remove} isNew={!it.name}>
      <Grid $min={170}>
        <Field
          label="Joint"
          value={it.name}
          onChange={(name) => set({ name })}
          name={`joints.${at}.name`}
          placeholder="vapour flare, indoor end"
        />
        <Pick
          label="Made as"
          value={it.kind}
          onChange={(k) => set({ kind: k })}
          options={meta.joint_kinds.map((k) => ({ id: k.code, text: k.title }))}
        />
        <SectionPick
          doc={doc}
          value={it.section}
          onChange={(section) => set({ section })}
        />
        {it.kind === "flare" && (
          <TypedField
            label="Maker’s torque"
            value={it.torque}
            onChange={(torque) => set({ torque })}
            units={TORQUES}
            name={`joints.${at}.torque.typed`}
          />
        )}
        {it.kind === "flare" && (
          <Pick
            label="Tightened to it"
            value={it.is_torqued ? "yes" : "no"}
            onChange={(v) => set({ is_torqued: v === "yes" })}
            options={[
              { id: "no", text: "not yet" },
              { id: "yes", text: "yes, with the wrench" },
            ]}
          />
        )}
      </Grid>
    </Thing>
  );
}
