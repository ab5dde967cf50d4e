import styled from "styled-components";
import { tried } from "../api/visit";
import type { Schemas } from "../api/client";
import { useBench } from "../api/queries";
import { useUnits } from "../units/units";
import { Button, Field } from "./parts";
import { Pick } from "./Pick";

type Typed = Schemas["Typed"];
type MassView = Schemas["MassView"];

const Pair = styled.div`
  display: grid;
  grid-template-columns: minmax(0, 1fr) 112px;
  gap: 6px;
  align-items: start;
`;
const Two = styled.div`
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 6px;
`;
const Row = styled.p`
  display: flex;
  flex-wrap: wrap;
  gap: 0 0.9em;
  font-size: var(--t-note);
  color: var(--soft);
  font-family: var(--mono);
  font-variant-numeric: tabular-nums;
  min-height: 1.4em;
`;
const Asked = styled.div`
  border-left: 4px solid var(--losing);
  background: var(--wash);
  padding: 6px 10px;
  display: grid;
  gap: 6px;
  margin-top: 4px;
  & > div {
    display: flex;
    flex-wrap: wrap;
    gap: 8px;
  }
`;

/** A mass in every form at once. */
export function Forms({ mass }: { mass: MassView }) {
  return (
    <Row>
      {mass.forms.map((f) => (
        <span key={f}>{f}</span>
      ))}
    </Row>
  );
}

const shown = (t: Typed) =>
  t.unit === "lb-oz" || /[a-z]/i.test(t.typed)
    ? t.typed
    : `${t.typed} ${t.unit}`;

/** Two readings of what was typed, side by side; a tap takes one, nothing changes by itself. */
export function SlipAsk({
  slip,
  onTake,
}: {
  slip: Schemas["Slip"];
  onTake: (t: Typed) => void;
}) {
  return (
    <Asked role="status">
      <span>{slip.words}</span>
      <div>
        {slip.choices.map((c, i) => (
          <Button key={`${c.typed} ${c.unit}`} onPress={() => onTake(c)}>
            {i === 0 ? `Stays ${shown(c)}` : `It is ${shown(c)}`}
          </Button>
        ))}
      </div>
    </Asked>
  );
}

interface Props {
  label: string;
  value: Typed | null | undefined;
  onChange: (v: Typed | null) => void;
  /** Of the field that a refusal names, without ".typed". */
  name?: string;
  hint?: string;
  /** What is expected, g, and what speaks for it. */
  expected?: { g: number; speaks: string } | null;
  /** Nothing of it is shown: it is typed a second time without sight of the first. */
  isBlind?: boolean;
  first?: string;
}

/** Pounds and ounces of a text like "4 lb 6 oz". */
const poundsOf = (text: string): [string, string] => {
  const m = /^\s*([^a-z]*)(?:lb)?\s*([^a-z]*)(?:oz)?\s*$/i.exec(text);
  return [m?.[1]?.trim() ?? "", m?.[2]?.trim() ?? ""];
};

/** One mass field everywhere: any unit, shown in all of them, slips asked about quietly. */
export function MassField({
  label,
  value,
  onChange,
  name,
  hint,
  expected,
  isBlind,
  first = "kg",
}: Props) {
  const { meta } = useUnits();
  const unit = value?.unit ?? first;
  const text = value?.typed ?? "";
  const body = text.trim()
    ? {
        mass: { typed: text, unit },
        expected_g: expected?.g ?? null,
        speaks: expected?.speaks ?? "",
      }
    : null;
  const { data, error } = useBench("mass", body, tried.mass);
  const type = (typed: string, u = unit) =>
    onChange(typed.trim() ? { typed, unit: u } : null);
  const [lb, oz] = poundsOf(text);
  const pounds = (l: string, o: string) =>
    type(l.trim() || o.trim() ? `${l || "0"} lb ${o || "0"} oz` : "");
  // Taking a choice as it stands says that it was seen: it is not asked about again.
  const key = `${text} ${unit}`;
  return (
    <div>
      <Pair role="group" aria-label={label}>
        {unit === "lb-oz" ? (
          <Two>
            <Field
              label={`${label}, lb`}
              value={lb}
              onChange={(l) => pounds(l, oz)}
              inputMode="decimal"
              {...(name && { name: `${name}.typed` })}
            />
            <Field
              label="and oz"
              value={oz}
              onChange={(o) => pounds(lb, o)}
              inputMode="decimal"
            />
          </Two>
        ) : (
          <Field
            label={label}
            value={text}
            onChange={(t) => type(t)}
            inputMode="decimal"
            hint={hint}
            {...(name && { name: `${name}.typed` })}
          />
        )}
        <Pick
          label="Unit"
          value={unit}
          onChange={(u) => onChange({ typed: text, unit: u })}
          options={meta.choices.mass_units.map((u) => ({
            id: u.code,
            text: u.title,
          }))}
        />
      </Pair>
      {body && !isBlind && data && !error && <Forms mass={data.mass} />}
      {body && error && (
        <Row as="p" role="alert">
          {error.message}
        </Row>
      )}
      {body &&
        !isBlind &&
        !error &&
        data?.slips.map((s) => (
          <SlipAsk key={key + s.words} slip={s} onTake={onChange} />
        ))}
    </div>
  );
}
