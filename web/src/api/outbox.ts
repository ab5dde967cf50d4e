import { useQueryClient } from "@tanstack/react-query";
import { useCallback, useEffect, useSyncExternalStore } from "react";
import { askPocket, hasPocket, type PocketRequest } from "../pocket/pocket";
import { entersAgain, reopen, sync } from "../pocket/sync";
import { openBox } from "./box";
import { device, freshId, Refusal, told, type Schemas } from "./say";
import { isAway, isReachable, onReach, probe, reached } from "./reach";
import { now } from "./clock";
import { owner, type Owner } from "./owner";
import { here, room } from "./room";

interface Waits {
  id: string;
  /** Its place: things are sent in the order in which they were entered, whatever the clock did meanwhile. */
  n: number;
  /** When it was logged, by this page's clock. */
  client_ms: number;
  /** Who entered it: it is sent only as them. */
  person: Owner;
  /** Why the server refused it, if it did: it then waits for a person. */
  refused?: string;
  /** The field that the refusal names. */
  field?: string | null;
}

/** A reading logged here and not yet acknowledged by the server. */
export interface WaitingReading extends Waits {
  test: string;
  /** When it happened, if that was said. */
  at_ms?: number | null;
  channel_id: string;
  typed: string;
}

/** An event likewise. */
export interface WaitingEvent extends Waits {
  test: string;
  at_ms?: number | null;
  kind: Schemas["EventKind"];
  note: string;
  photo_id?: string;
  moved?: Schemas["ValveMove"];
  with_tool?: boolean;
}

/** Anything else that was entered while the server could not be reached, as it was to be sent. */
export interface WaitingCommand extends Waits {
  request: PocketRequest;
  /** A photo. */
  blob: Blob | null;
}

export type Waiting = WaitingReading | WaitingEvent | WaitingCommand;

export const isReading = (w: Waiting): w is WaitingReading => "channel_id" in w;
export const isCommand = (w: Waiting): w is WaitingCommand => "request" in w;

const NOBODY: Owner = { id: "", name: "" };
const mine = () => owner() ?? NOBODY;

/** Whether something was entered by whoever is signed in now. */
export const isMine = (w: Waiting) => w.person.id === owner()?.id;

const box = openBox<Waiting>(`ruhe.waits${room}`, (a, b) => a.n - b.n);
const next = () => 1 + Math.max(0, ...box.all().map((w) => w.n));

/** Puts readings where neither a reload nor a dead network can lose them. */
export function keep(readings: Omit<WaitingReading, "n" | "person">[]) {
  const n = next();
  const waits = readings.map((r, i) => ({ ...r, n: n + i, person: mine() }));
  box.put(waits);
  void enteredHere(waits);
}

/** Puts an event there, as of now unless a time is said. */
export function keepEvent(event: {
  test: string;
  kind: Schemas["EventKind"];
  note?: string;
  photo_id?: string;
  at_ms?: number | null;
  /** Which valve was moved, and how. */
  moved?: Schemas["ValveMove"];
  /** A core was moved inside a tool that kept its port shut. */
  with_tool?: boolean;
}) {
  const waits = {
    note: "",
    ...event,
    id: freshId(),
    n: next(),
    client_ms: now(),
    person: mine(),
  };
  box.put([waits]);
  void enteredHere([waits]);
}

/** Puts an entry there that could not be sent; fails if it cannot be stored. */
export async function keepCommand({
  blob,
  ...request
}: PocketRequest & { blob: Blob | null }) {
  const waits: WaitingCommand = {
    id: request.id ?? freshId(),
    n: next(),
    client_ms: request.said_ms ?? now(),
    person: mine(),
    request,
    blob,
  };
  try {
    await box.store([waits]);
  } catch {
    box.take([waits.id]);
    // The pocket has it already and must forget it.
    reopen();
    throw new Refusal(
      "This device has no room left: it was not kept. Send what is waiting, or make room.",
      507,
      null,
    );
  }
}

/** Forgets a refused thing after a person has seen why. */
export function drop(id: string) {
  box.take([id]);
  reopen();
}

const all = () => box.all();

/** What is to be sent from here: entered by whoever is signed in, and not refused. */
const toSend = () => all().filter((w) => !w.refused && isMine(w));

/** How long an entry waits that the server broke on, ms. */
const ASIDE = 60_000;
/** Entries that the server broke on, and when each is tried again. It keeps its place; what does not hang by it
 * goes on. */
const aside = new Map<string, number>();

/** Tests whose readings are sent one by one. */
const singly = new Set<string>();

/** What an entry is about: a test, or the circuit (or thing) of its address. */
const about = (w: Waiting) =>
  isCommand(w) ? (w.request.path.split("/")[3] ?? "") : w.test;

/** Whether an entry stands behind one that waits: it is about what that one makes, or, unless it is a reading,
 * about the
 * same. */
const hangsBy = (w: Waiting, first: Waiting) =>
  about(w) === first.id || (!isReading(w) && about(w) === about(first));

/** What can be sent now. */
function sendable(): Waiting[] {
  const now = Date.now();
  const stuck: Waiting[] = [];
  return toSend().filter((w) => {
    const waits =
      (aside.get(w.id) ?? 0) > now || stuck.some((s) => hangsBy(w, s));
    if (waits) stuck.push(w);
    return !waits;
  });
}

/** Whether anything is to be sent. */
export const hasWaiting = () => toSend().length > 0;

/** Makes one's own what was entered here before anybody was known by name. */
export function adopt(w: Waiting) {
  if (w.person.id === "") box.put([{ ...w, person: mine() }]);
}

/** Whether something hangs by this page alone: the device has no room for it. */
export const useIsLoose = () =>
  useSyncExternalStore(box.subscribe, box.isLoose);

/** Everything that waits. */
export const useAllWaiting = () => useSyncExternalStore(box.subscribe, all);

/** Readings and events of a test that wait. */
export const useWaiting = (test: string) =>
  useAllWaiting().filter(
    (w): w is WaitingReading | WaitingEvent => !isCommand(w) && w.test === test,
  );

/** As the routes take the times of a reading or an event. */
const times = (w: WaitingReading | WaitingEvent) => ({
  id: w.id,
  at_ms: w.at_ms ?? null,
  logged_ms: w.client_ms,
  client_ms: now(),
});

const readingOf = (w: WaitingReading) => ({
  ...times(w),
  channel_id: w.channel_id,
  typed: w.typed,
});

/** What waits, as a request. */
function requestOf(w: Waiting): PocketRequest {
  if (isCommand(w)) return w.request;
  const body = isReading(w)
    ? { readings: [readingOf(w)] }
    : {
        ...times(w),
        kind: w.kind,
        note: w.note,
        photo_id: w.photo_id ?? null,
        moved: w.moved ?? null,
        with_tool: w.with_tool ?? null,
      };
  const path = `/api/tests/${w.test}/${isReading(w) ? "readings" : "events"}`;
  return {
    method: "POST",
    path,
    body,
    id: w.id,
    device: device(),
    said_ms: w.client_ms,
  };
}

/** Enters in the pocket what waits: it counts here before the server has it. What is there already is not entered
 * twice. */
export async function applyWaiting(what: readonly Waiting[] = all()) {
  if (!hasPocket) return;
  for (const w of what) {
    if (w.refused || !isMine(w)) continue;
    const bytes = isCommand(w) ? await w.blob?.arrayBuffer() : undefined;
    await askPocket(requestOf(w), bytes);
  }
}

entersAgain(() => applyWaiting());

/** What is told when something entered here counts in the pocket. */
const counted = new Set<() => void>();

/** Enters what was just put there in the pocket; without the server the views are asked for again from there. */
async function enteredHere(what: readonly Waiting[]) {
  await applyWaiting(what);
  if (!isReachable()) for (const tell of counted) tell();
}

/** Marks what a refusal names (all of the batch, if it names nothing); only a person takes it away. */
function refuse(batch: readonly Waiting[], e: Refusal) {
  const at = /^readings\.(\d+)\./.exec(e.field ?? "")?.[1];
  const culprits =
    at === undefined ? batch : batch.filter((_, i) => i === Number(at));
  box.put(culprits.map((w) => ({ ...w, refused: e.message, field: e.field })));
  // It counted in the pocket, and does so no longer.
  reopen();
}

/** Sends a batch; what the server acknowledges leaves the box. Whether anything came of it. */
async function post(
  batch: readonly Waiting[],
  call: () => Promise<unknown>,
): Promise<boolean> {
  try {
    await call();
    reached(true);
    box.take(batch.map((w) => w.id));
    return true;
  } catch (e) {
    if (!(e instanceof Refusal)) reached(false);
    if (!(e instanceof Refusal)) return false;
    // Something broke over it: it stays where it is, and what does not hang by it goes on.
    if (e.status >= 500) {
      const [first] = batch;
      // Which of them it was shows when they go one by one.
      if (first && batch.length > 1) singly.add(about(first));
      else for (const w of batch) aside.set(w.id, Date.now() + ASIDE);
      return true;
    }
    // Signed out, or too fast: it is not the entry's fault.
    if (e.status === 401 || e.status === 429) return false;
    refuse(batch, e);
    return true;
  }
}

/** Sends to the server itself, never to the pocket: what is answered here has arrived. */
async function toServer(
  { method, path, query, body, id, device: on, said_ms }: PocketRequest,
  blob: Blob | null,
  headers: Record<string, string> = {},
) {
  const search = new URLSearchParams(query).toString();
  const response = await fetch(here(search ? `${path}?${search}` : path), {
    method,
    headers: {
      "Content-Type": blob ? "application/octet-stream" : "application/json",
      "Ruhe-Id": id ?? "",
      "Ruhe-Device": on ?? "",
      "Ruhe-Clock": String(said_ms ?? now()),
      "Ruhe-Sent": String(now()),
      // Another page of this browser may have signed somebody else in meanwhile: the server then takes nothing.
      "Ruhe-Person": owner()?.id ?? "",
      ...headers,
    },
    body: blob ?? (body == null ? null : JSON.stringify(body)),
  });
  if (isAway(response.status)) throw new TypeError("away");
  const reply: unknown = await response.json().catch(() => null);
  await told(Promise.resolve({ data: reply, error: reply, response }));
}

/** Sends what waits first: the readings of a test that stand together, anything else by itself. Whether anything
 * came of it. */
async function send(): Promise<boolean> {
  const waiting = sendable();
  const first = waiting[0];
  if (!first) return false;
  const request = requestOf(first);
  if (!isReading(first))
    return await post([first], () =>
      toServer(request, isCommand(first) ? first.blob : null),
    );
  // Only as far as they stand together: an event between two readings keeps its place.
  const end = waiting.findIndex((w) => !isReading(w) || w.test !== first.test);
  const together = waiting
    .slice(0, end < 0 ? undefined : end)
    .filter(isReading);
  const batch = singly.has(first.test) ? [first] : together;
  const readings = batch.map(readingOf);
  return await post(batch, () =>
    toServer({ ...request, body: { readings } }, null),
  );
}

/** Sends a refused entry again with what it lacked, first of all a password for a signature. */
export async function sendAgain(
  w: WaitingCommand,
  headers: Record<string, string>,
) {
  await toServer(w.request, w.blob, headers);
  box.take([w.id]);
  sync("all");
}

/** Keeps sending while the page is open. */
export function useOutbox() {
  const cache = useQueryClient();
  const flush = useCallback(async () => {
    let any = false;
    await box.alone(async () => {
      while (await send()) any = true;
      // Nothing to send tells nothing of the server: it is asked.
      if (!isReachable() && !hasWaiting()) await probe();
    });
    // What arrived is taken along when the stream tells of it, with the rest of its circuit.
    if (any) void cache.invalidateQueries();
  }, [cache]);
  useEffect(() => {
    const go = () => void flush();
    go();
    const timer = window.setInterval(go, 2000);
    window.addEventListener("online", go);
    const again = () => void cache.invalidateQueries();
    counted.add(again);
    const leaveReach = onReach(again);
    const leave = box.subscribe(go);
    return () => {
      counted.delete(again);
      leaveReach();
      window.clearInterval(timer);
      window.removeEventListener("online", go);
      leave();
    };
  }, [cache, flush]);
}
