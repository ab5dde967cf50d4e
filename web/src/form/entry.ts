import type { Ref } from "react";
import { useForm, useWatch } from "react-hook-form";
import { figure, isWrong, noNumber } from "../units/typed";
import { useSwitch, type Switch } from "../units/switch";
import { timeOf, useUnits, type Kind, type Units } from "../units/units";
import type { Spec, Specs, Texts } from "./schema";

/** What a field shows, to be spread over `Field` or `Pick`. */
export interface Shown<T extends string> {
  label: string;
  name: string;
  value: T;
  onChange: (text: T) => void;
  error?: string;
  inputMode?: "decimal";
  inputRef: Ref<HTMLElement>;
}

export interface Entry<F extends Specs> {
  /** As typed. */
  text: Texts<F>;
  /** In SI; null: nothing, or no number. */
  si: Record<keyof F, number | null>;
  /** The number that is typed, in its own unit. */
  typed: (name: keyof F & string) => number | null;
  /** Every figure of these fields in SI; null while one of them is missing. */
  whole: <K extends keyof F & string>(
    ...names: K[]
  ) => Record<K, number> | null;
  /** The figures of a list, in SI. */
  all: (name: keyof F & string) => number[];
  field: <K extends keyof F & string>(name: K) => Shown<Texts<F>[K]>;
  set: (part: Partial<Texts<F>>) => void;
  /** What is wrong with it, each with the name of its field. */
  problems: string[];
  /** Goes on only if nothing is wrong; else to the first field that is. */
  check: (then: () => void) => void;
}

const parts = (typed: string) =>
  typed
    .split(",")
    .map((t) => t.trim())
    .filter(Boolean);

/** A typed figure in SI. */
function inSi(units: Units, spec: Spec, typed: string): number | null {
  if (spec.as === "time") return timeOf(typed);
  const n = figure(typed);
  if (spec.as === "text" || !Number.isFinite(n)) return null;
  const kind = spec.kind;
  if (!kind) return n * spec.times;
  return spec.as === "delta"
    ? units.si(kind, n) - units.si(kind, 0)
    : units.si(kind, n);
}

function labelOf(units: Units, spec: Spec): string {
  const { kind, label } = spec;
  const of = (k: Kind) =>
    spec.as === "delta" ? units.deltaLabel(k) : units.label(k);
  const unit = kind ? of(kind) : spec.unit;
  return unit ? `${label}, ${unit}` : label;
}

/** What is wrong with what is typed; true: nothing. */
function judged(spec: Spec, typed: string): string | true {
  if (typed.trim() === "") return spec.asks ?? true;
  if (spec.as === "text") return true;
  if (spec.as === "time")
    return timeOf(typed) === null ? "Write the time as 14:05." : true;
  const bad = (spec.as === "list" ? parts(typed) : [typed]).find(isWrong);
  return bad === undefined ? true : noNumber(bad);
}

/** The fields of a form by their schema: what is typed, in SI, what is wrong with it. A figure in a chosen unit is
 * converted when another unit is; digits never stay. */
export function useEntry<F extends Specs>(
  specs: F,
  start: Partial<Texts<F>> = {},
): Entry<F> {
  const units = useUnits();
  const first = Object.fromEntries(
    Object.entries(specs).map(([k, s]) => [
      k,
      (start as Record<string, string | undefined>)[k] ?? s.first,
    ]),
  );
  const form = useForm<Record<string, string>>({ defaultValues: first });
  const { errors, isSubmitted } = form.formState;
  const typed = useWatch({ control: form.control });
  const at = (k: string) => typed[k] ?? first[k] ?? "";
  const put = (k: string, to: string) =>
    form.setValue(k, to, { shouldValidate: isSubmitted });
  const convert = (kind: Kind) => (by: Switch) => {
    for (const [k, s] of Object.entries(specs))
      if (
        s.kind === kind &&
        (s.as === "value" || s.as === "delta" || s.as === "list")
      )
        form.setValue(k, by[s.as](form.getValues(k)));
  };
  useSwitch("pressure", convert("pressure"));
  useSwitch("temperature", convert("temperature"));
  useSwitch("vacuum", convert("vacuum"));
  const field = (k: keyof F & string) => {
    const spec = specs[k] as Spec;
    const { ref, name } = form.register(k, {
      validate: (now: string) => judged(spec, now),
    });
    const error = errors[k]?.message;
    return {
      label: labelOf(units, spec),
      name,
      value: at(k),
      onChange: (to: string) => put(k, to),
      ...(error && { error }),
      ...(["number", "value", "delta"].includes(spec.as) && {
        inputMode: "decimal" as const,
      }),
      inputRef: ref,
    };
  };
  const si = Object.fromEntries(
    Object.entries(specs).map(([k, s]) => [k, inSi(units, s, at(k))]),
  );
  const whole = (...names: (keyof F & string)[]) =>
    names.every((k) => si[k] != null)
      ? Object.fromEntries(names.map((k) => [k, si[k]]))
      : null;
  return {
    typed: (k) => {
      const n = figure(at(k));
      return Number.isNaN(n) ? null : n;
    },
    whole: whole as Entry<F>["whole"],
    text: Object.fromEntries(
      Object.keys(specs).map((k) => [k, at(k)]),
    ) as Texts<F>,
    si: si as Record<keyof F, number | null>,
    all: (k) =>
      parts(at(k)).flatMap((t) => inSi(units, specs[k] as Spec, t) ?? []),
    field: field as unknown as Entry<F>["field"],
    set: (part) => {
      for (const [k, to] of Object.entries(part)) put(k, String(to));
    },
    problems: Object.keys(specs).flatMap((k) => {
      const message = errors[k]?.message;
      if (!message) return [];
      // What asks says by itself which field it is.
      return specs[k]?.asks === message
        ? [message]
        : [`${specs[k]?.label ?? k}: ${message}`];
    }),
    check: (then) => void form.handleSubmit(() => then())(),
  };
}
