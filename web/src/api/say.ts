import { now } from "./clock";
import type { components } from "./schema.gen";

export type Schemas = components["schemas"];

/** This device, by a name of its own that stays. */
export function device(): string {
  const key = "ruhe.device";
  const known = localStorage.getItem(key);
  if (known) return known;
  const made = freshId().slice(0, 12);
  localStorage.setItem(key, made);
  return made;
}

/** Says who speaks: every act carries an id made here, this device and its clock. */
export function said(): Record<string, string> {
  return {
    "Ruhe-Id": freshId(),
    "Ruhe-Device": device(),
    "Ruhe-Clock": String(now()),
    "Ruhe-Sent": String(now()),
  };
}

/** A refusal in the server's own words, with the field it belongs to. */
export class Refusal extends Error {
  constructor(
    message: string,
    readonly status: number,
    readonly field: string | null,
  ) {
    super(message);
  }
}

type Result<T> = { data?: T; error?: unknown; response: Response };

const signedOut = new Set<() => void>();

/** Calls `act` when the server no longer knows who this is. */
export function onSignedOut(act: () => void) {
  signedOut.add(act);
  return () => void signedOut.delete(act);
}

/** Unwraps a reply or throws a Refusal. */
export async function told<T>(call: Promise<Result<T>>): Promise<T> {
  const { data, error, response } = await call;
  if (response.ok) return data as T;
  const problem = error as Partial<Schemas["Problem"]> | string | undefined;
  if (response.status === 401) for (const act of signedOut) act();
  const message = typeof problem === "object" ? problem.message : undefined;
  throw new Refusal(
    message ?? `Ruhe refused this (${response.status})`,
    response.status,
    typeof problem === "object" ? (problem.field ?? null) : null,
  );
}

/** An id made here, so that a reading sent twice is stored once. crypto.randomUUID is missing on plain http. */
export function freshId(): string {
  const bytes = crypto.getRandomValues(new Uint8Array(16));
  return Array.from(bytes, (b) => b.toString(16).padStart(2, "0")).join("");
}
