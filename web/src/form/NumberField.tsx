import { useState } from "react";
import { Field } from "../look/parts";
import { figure, isWrong, noNumber } from "../units/typed";

/** A number of something larger that is kept as one. What is typed stays as typed (a point is no end of it); what is
 * no number is said, and holds the form back. */
export function NumberField({
  value,
  onChange,
  ...rest
}: {
  label: string;
  value: number | null | undefined;
  onChange: (n: number | null) => void;
  hint?: string;
  name?: string;
}) {
  const shown = value == null ? "" : String(value);
  const [typed, setTyped] = useState({ text: shown, of: value ?? null });
  // Another figure from outside goes before what was typed.
  const text = typed.of === (value ?? null) ? typed.text : shown;
  const bad = isWrong(text);
  return (
    <Field
      {...rest}
      value={text}
      onChange={(now) => {
        const n = figure(now);
        const of = Number.isNaN(n) ? null : n;
        setTyped({ text: now, of });
        onChange(of);
      }}
      inputMode="decimal"
      error={bad ? noNumber(text) : null}
      data-wrong={bad || undefined}
    />
  );
}
