import { figure } from "./typed";
import { useLayoutEffect, useRef } from "react";
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

type UnitView = NonNullable<ReturnType<ReturnType<typeof useUnits>["unit"]>>;

function between(from: UnitView, to: UnitView): Switch {
  const through = (f: (n: number) => number) => (text: string) => {
    const n = figure(text);
    if (text.trim() === "" || !Number.isFinite(n)) return text;
    const known = before.get(`${text} ${from.code} ${to.code}`);
    const made = known ?? trimmed(f(n), 5).replace("−", "-");
    before.set(`${made} ${to.code} ${from.code}`, text);
    return made;
  };
  const value = through(
    (n) => (n * from.factor + from.offset - to.offset) / to.factor,
  );
  return {
    value,
    delta: through((n) => (n * from.factor) / to.factor),
    list: (text) =>
      text
        .split(",")
        .map((t) => value(t.trim()))
        .join(", "),
  };
}

/** Calls `convert` once when another unit of this kind is chosen, before the page is painted: a form converts what is
 * typed in it, digits never stay. */
export function useSwitch(kind: Kind, convert: (s: Switch) => void) {
  const units = useUnits();
  const now = units.chosen[kind];
  const was = useRef(now);
  useLayoutEffect(() => {
    if (was.current === now) return;
    const [from, to] = [units.unit(was.current), units.unit(now)];
    was.current = now;
    if (from && to) convert(between(from, to));
  });
}
