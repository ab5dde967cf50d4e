import { figure } from "./typed";
import { useState } from "react";
import { trimmed, useUnits, type Kind } from "./units";

/** What was typed in the unit chosen before, in the one chosen now. What is no number stays as it is. */
export interface Switch {
  /** A figure. */
  value: (text: string) => string;
  /** A difference: a step, a drop. */
  delta: (text: string) => string;
  /** Figures with commas between. */
  list: (text: string) => string;
}

/** What a converted text was before, so that going back gives what was typed. */
const before = new Map<string, string>();

/** Calls `convert` once when another unit of this kind is chosen: a form converts what is typed in it, digits never stay. */
export function useSwitch(kind: Kind, convert: (s: Switch) => void) {
  const units = useUnits();
  const now = units.chosen[kind];
  const [was, setWas] = useState(now);
  if (was === now) return;
  setWas(now);
  const [from, to] = [units.unit(was), units.unit(now)];
  if (!from || !to) return;
  const through = (f: (n: number) => number) => (text: string) => {
    const n = figure(text);
    if (text.trim() === "" || !Number.isFinite(n)) return text;
    const known = before.get(`${text} ${was} ${now}`);
    const made = known ?? trimmed(f(n), 5).replace("−", "-");
    before.set(`${made} ${now} ${was}`, text);
    return made;
  };
  const value = through(
    (n) => (n * from.factor + from.offset - to.offset) / to.factor,
  );
  convert({
    value,
    delta: through((n) => (n * from.factor) / to.factor),
    list: (text) =>
      text
        .split(",")
        .map((t) => value(t.trim()))
        .join(", "),
  });
}
