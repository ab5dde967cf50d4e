import type { Kind } from "../units/units";

/** What one field of a form takes. */
export interface Spec<T extends string = string> {
  /** What stands over it, without its unit. */
  label: string;
  /** `value`, `delta`, `list`: in the unit that is chosen for a kind; they are converted when another one is. */
  as: "text" | "number" | "value" | "delta" | "list" | "time";
  kind?: Kind;
  /** The unit it is always typed in. */
  unit?: string | undefined;
  /** SI in one of what is typed. */
  times: number;
  /** What stands in it first. */
  first: T;
  /** What is said when it is left empty; without it, it may be. */
  asks?: string | undefined;
}

interface More {
  first?: string;
  asks?: string;
}

export const text = (label: string, { first = "", asks }: More = {}): Spec => ({
  label,
  as: "text",
  times: 1,
  first,
  asks,
});

/** One of a list; empty: nothing was chosen. */
export const choice = <T extends string>(
  label: string,
  first: T,
  asks?: string,
): Spec<T> => ({ label, as: "text", times: 1, first, asks });

/** A number that is always typed in the same unit: minutes with `times` 60 are seconds outside. */
export const amount = (
  label: string,
  unit?: string,
  { times = 1, first = "", asks }: More & { times?: number } = {},
): Spec => ({ label, as: "number", unit, times, first, asks });

/** A figure in the chosen unit. */
export const value = (
  kind: Kind,
  label: string,
  { first = "", asks }: More = {},
): Spec => ({ label, as: "value", kind, times: 1, first, asks });

/** A difference in the chosen unit: a step, a drop. */
export const delta = (
  kind: Kind,
  label: string,
  { first = "", asks }: More = {},
): Spec => ({ label, as: "delta", kind, times: 1, first, asks });

/** Figures in the chosen unit, with commas between. */
export const list = (
  kind: Kind,
  label: string,
  { first = "", asks }: More = {},
): Spec => ({ label, as: "list", kind, times: 1, first, asks });

/** A time of the day; outside it is ms, of today or of yesterday if it would lie ahead. */
export const time = (label: string): Spec => ({
  label,
  as: "time",
  times: 1,
  first: "",
});

export type Specs = Record<string, Spec>;
/** What is typed in each field. */
export type Texts<F extends Specs> = {
  [K in keyof F]: F[K] extends Spec<infer T> ? T : string;
};
