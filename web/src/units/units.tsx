import { isWrong, noNumber } from "./typed";
import { queryOptions, useQuery } from "@tanstack/react-query";
import {
  createContext,
  useContext,
  useMemo,
  useState,
  type ReactNode,
} from "react";
import { client, told, type Schemas } from "../api/client";
import { now } from "../api/clock";

export type Kind = "pressure" | "temperature" | "vacuum";
export type Unit = Schemas["Unit"];
export type Chosen = Record<Kind, Unit>;

/** What people of the trade use; every one of them is in the server's table. */
export const OFFERED: Record<Kind, Unit[]> = {
  pressure: ["psig", "kPa", "bar", "MPa", "kgf/cm2"],
  temperature: ["degF", "degC"],
  vacuum: ["micron", "Pa", "mbar", "torr"],
};

export interface Units {
  meta: Schemas["Meta"];
  chosen: Chosen;
  choose: (kind: Kind, code: Unit) => void;
  /** SI to the chosen unit. */
  of: (kind: Kind, si: number) => number;
  /** A difference in SI to the chosen unit. */
  delta: (kind: Kind, si: number) => number;
  /** A typed number in the chosen unit to SI. */
  si: (kind: Kind, value: number) => number;
  label: (kind: Kind) => string;
  /** Label of a difference: psi, not psig. */
  deltaLabel: (kind: Kind) => string;
  unit: (code: string) => Schemas["UnitView"] | undefined;
  /** What a gauge or probe in a unit usually resolves. */
  usualStep: (code: Unit) => number;
  /** Pa in so many of a unit of the server’s table. */
  pascal: (value: number, code: string) => number;
}

const Context = createContext<Units | null>(null);
const KEY = "ruhe.units";
const FIRST: Chosen = {
  pressure: "psig",
  temperature: "degF",
  vacuum: "micron",
};

/** The units that were chosen last. */
export function remembered(): Chosen {
  try {
    return {
      ...FIRST,
      ...(JSON.parse(localStorage.getItem(KEY) ?? "{}") as Partial<Chosen>),
    };
  } catch {
    return FIRST;
  }
}

export const metaQuery = queryOptions({
  queryKey: ["meta"],
  queryFn: () => told(client.GET("/api/meta")),
  staleTime: Infinity,
});

export function UnitsProvider({
  children,
  whileLoading,
}: {
  children: ReactNode;
  whileLoading: ReactNode;
}) {
  const [chosen, setChosen] = useState(remembered);
  const { data: meta } = useQuery({ ...metaQuery, retry: true });
  const value = useMemo<Units | null>(() => {
    if (!meta) return null;
    const unit = (code: string) => meta.units.find((u) => u.code === code);
    const at = (kind: Kind) =>
      unit(chosen[kind]) ?? {
        code: "",
        label: "?",
        factor: 1,
        offset: 0,
        dimension: kind,
      };
    return {
      meta,
      chosen,
      unit,
      usualStep: (code) => unit(code)?.usual_step ?? NaN,
      pascal: (value, code) => value * (unit(code)?.factor ?? NaN),
      choose: (kind, code) => {
        const next = { ...chosen, [kind]: code };
        localStorage.setItem(KEY, JSON.stringify(next));
        setChosen(next);
      },
      of: (kind, si) => (si - at(kind).offset) / at(kind).factor,
      delta: (kind, si) => si / at(kind).factor,
      si: (kind, v) => v * at(kind).factor + at(kind).offset,
      label: (kind) => at(kind).label,
      deltaLabel: (kind) =>
        at(kind).label === "psig" ? "psi" : at(kind).label,
    };
  }, [meta, chosen]);
  return value ? <Context value={value}>{children}</Context> : whileLoading;
}

export function useUnits(): Units {
  const units = useContext(Context);
  if (!units) throw new Error("useUnits outside UnitsProvider");
  return units;
}

/** A number with as many decimals as its size deserves. */
export function plain(value: number, digits = 3): string {
  if (!Number.isFinite(value)) return "—";
  if (value === 0) return "0";
  const decimals = Math.max(
    0,
    Math.min(4, digits - 1 - Math.floor(Math.log10(Math.abs(value)))),
  );
  return value.toFixed(decimals).replace("-", "−");
}

/** The same without zeros that say nothing: for limits, plans and ticks. */
export const trimmed = (value: number, digits = 4) =>
  plain(value, digits)
    .replace(/(\.\d*?)0+$/, "$1")
    .replace(/\.$/, "");

/** A band of volumes: "6" when its ends are the same, "3.4 to 3.6". */
export const litres = (low: number, high: number) =>
  high - low < 0.02 * high
    ? trimmed(high, 2)
    : `${trimmed(low, 2)} to ${trimmed(high, 2)}`;

/** Names the first of some typed fields that is not a number; an empty one is no number and no fault. */
export function notANumber(fields: [string, string][]): string | null {
  const bad = fields.find(([, text]) => isWrong(text));
  return bad ? `${bad[0]}: ${noNumber(bad[1])}` : null;
}

const clock = new Intl.DateTimeFormat("en-GB", {
  hour: "2-digit",
  minute: "2-digit",
});
const seconds = new Intl.DateTimeFormat("en-GB", {
  hour: "2-digit",
  minute: "2-digit",
  second: "2-digit",
});
const date = new Intl.DateTimeFormat("en-GB", {
  day: "numeric",
  month: "short",
  year: "numeric",
});

export const atClock = (ms: number) => clock.format(ms);
export const atSecond = (ms: number) => seconds.format(ms);
export const onDate = (ms: number) => date.format(ms);

/** A wall-clock time today (or yesterday, if it would lie ahead), ms. */
export function timeOf(text: string): number | null {
  const m = /^(\d{1,2})[:.]?(\d{2})(?:[:.]?(\d{2}))?$/.exec(text.trim());
  if (!m) return null;
  const at = new Date(now());
  at.setHours(Number(m[1]), Number(m[2]), Number(m[3] ?? 0), 0);
  if (at.getTime() > now() + 60_000) at.setDate(at.getDate() - 1);
  return Number(m[1]) < 24 && Number(m[2]) < 60 ? at.getTime() : null;
}

/** 34 s, 12 min, 3 h 20 min. */
export function span(s: number): string {
  const t = Math.max(0, Math.round(s));
  if (t < 90) return `${t} s`;
  const m = Math.round(t / 60);
  if (m < 60) return `${m} min`;
  return m % 60 ? `${Math.floor(m / 60)} h ${m % 60} min` : `${m / 60} h`;
}
