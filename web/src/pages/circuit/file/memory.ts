import type { Schemas } from "../../../api/client";

/** A column of a file as it is to be taken. */
export interface Mapped {
  heading: string;
  example: string;
  quantity: Schemas["Quantity"] | "skip";
  unit: Schemas["Unit"];
}

/** How a file is read: what a person confirmed or answered. */
export interface Reading {
  time: string;
  date: string;
  zone: string;
  answers: Schemas["Answers"];
  columns: Mapped[];
}

const KEY = "ruhe.loggers";
const all = (): Record<string, Reading> => {
  try {
    return JSON.parse(localStorage.getItem(KEY) ?? "{}") as Record<
      string,
      Reading
    >;
  } catch {
    return {};
  }
};

/** What was confirmed for the last file of this shape. */
export const lastOf = (shape: string): Reading | undefined => all()[shape];

export const keep = (shape: string, reading: Reading) => {
  localStorage.setItem(KEY, JSON.stringify({ ...all(), [shape]: reading }));
};

/** How a file is read until somebody says otherwise; what was confirmed for its shape goes first. */
export function readAs(found: Schemas["FileView"]): Reading {
  const before = lastOf(found.shape);
  const times = found.columns.filter((c) => c.is_time);
  const dates = found.columns.filter((c) => c.is_date);
  return {
    time: before?.time ?? times[0]?.heading ?? found.columns[0]?.heading ?? "",
    date: before?.date ?? dates[0]?.heading ?? "none",
    zone: before?.zone ?? Intl.DateTimeFormat().resolvedOptions().timeZone,
    answers: before?.answers ?? {},
    columns: found.columns
      .filter((c) => !c.is_time && !c.is_date)
      .map((c) => {
        const was = before?.columns.find((x) => x.heading === c.heading);
        return {
          heading: c.heading,
          example: c.example,
          quantity: was?.quantity ?? c.quantity ?? "skip",
          unit: was?.unit ?? c.unit ?? "psig",
        };
      }),
  };
}
