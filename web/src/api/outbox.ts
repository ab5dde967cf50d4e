import { useQueryClient } from "@tanstack/react-query";
import { useCallback, useEffect, useSyncExternalStore } from "react";
import { client, freshId, Refusal, told, type Schemas } from "./client";

interface Waits {
  id: string;
  test: string;
  /** When it was logged, by this page's clock. */
  client_ms: number;
  /** When it happened, if that was said. */
  at_ms?: number | null;
  /** Why the server refused it, if it did: it then waits for a person. */
  refused?: string;
}

/** A reading logged here and not yet acknowledged by the server. */
export interface WaitingReading extends Waits {
  channel_id: string;
  typed: string;
}

/** An event likewise. */
export interface WaitingEvent extends Waits {
  kind: Schemas["EventKind"];
  note: string;
}

export type Waiting = WaitingReading | WaitingEvent;

export const isReading = (w: Waiting): w is WaitingReading => "channel_id" in w;

/** One key for each thing that waits: two tabs never write over each other's. */
const PREFIX = "ruhe.waits.";
const listeners = new Set<() => void>();
let box: readonly Waiting[] = read();

function read(): readonly Waiting[] {
  const all: Waiting[] = [];
  for (let i = 0; i < localStorage.length; i++) {
    const key = localStorage.key(i);
    if (!key?.startsWith(PREFIX)) continue;
    try {
      all.push(JSON.parse(localStorage.getItem(key) ?? "") as Waiting);
    } catch {
      // Not ours to lose: what cannot be read stays where it is.
    }
  }
  return all.sort((a, b) => a.client_ms - b.client_ms);
}

function changed() {
  box = read();
  for (const tell of listeners) tell();
}

function put(w: Waiting) {
  localStorage.setItem(PREFIX + w.id, JSON.stringify(w));
}

function subscribe(listener: () => void) {
  listeners.add(listener);
  const other = (e: StorageEvent) => {
    if (e.key === null || e.key.startsWith(PREFIX)) changed();
  };
  window.addEventListener("storage", other);
  return () => {
    listeners.delete(listener);
    window.removeEventListener("storage", other);
  };
}

/** Puts readings where neither a reload nor a dead network can lose them. */
export function keep(readings: WaitingReading[]) {
  readings.forEach(put);
  changed();
}

/** Puts an event there, as of now unless a time is said. */
export function keepEvent(event: {
  test: string;
  kind: Schemas["EventKind"];
  note?: string;
  at_ms?: number | null;
}) {
  put({ note: "", ...event, id: freshId(), client_ms: Date.now() });
  changed();
}

/** Forgets a refused thing after a person has seen why. */
export function drop(id: string) {
  localStorage.removeItem(PREFIX + id);
  changed();
}

export const useWaiting = (test: string) =>
  useSyncExternalStore(subscribe, () => box).filter((w) => w.test === test);

let sending = false;

/** Marks what a refusal names (all of the batch, if it names nothing); only a person takes it away. */
function refuse(batch: readonly Waiting[], e: Refusal) {
  const at = /^readings\.(\d+)\./.exec(e.field ?? "")?.[1];
  const culprits =
    at === undefined ? batch : batch.filter((_, i) => i === Number(at));
  for (const w of culprits) put({ ...w, refused: e.message });
}

/** Sends a batch; what the server acknowledges leaves the box. Whether anything came of it. */
async function post(
  batch: readonly Waiting[],
  call: () => Promise<unknown>,
): Promise<boolean> {
  try {
    await call();
    for (const w of batch) localStorage.removeItem(PREFIX + w.id);
    return true;
  } catch (e) {
    if (!(e instanceof Refusal) || e.status >= 500) return false;
    refuse(batch, e);
    return true;
  } finally {
    changed();
  }
}

/** Sends what waits: the readings of a test together, an event by itself. */
async function send(): Promise<boolean> {
  // Another tab may have sent some of it already; a thing sent twice is stored once.
  box = read();
  const first = box.find((w) => !w.refused);
  if (sending || !first) return false;
  sending = true;
  const path = { id: first.test };
  try {
    if (!isReading(first)) {
      const body: Schemas["EventInput"] = {
        id: first.id,
        kind: first.kind,
        note: first.note,
        at_ms: first.at_ms ?? null,
        logged_ms: first.client_ms,
        client_ms: Date.now(),
      };
      return await post([first], () =>
        told(client.POST("/api/tests/{id}/events", { params: { path }, body })),
      );
    }
    const batch = box
      .filter(isReading)
      .filter((w) => w.test === first.test && !w.refused);
    const readings = batch.map(
      ({ id, channel_id, typed, at_ms, client_ms }) => ({
        id,
        channel_id,
        typed,
        at_ms: at_ms ?? null,
        logged_ms: client_ms,
        client_ms: Date.now(),
      }),
    );
    return await post(batch, () =>
      told(
        client.POST("/api/tests/{id}/readings", {
          params: { path },
          body: { readings },
        }),
      ),
    );
  } finally {
    sending = false;
  }
}

/** Keeps sending while the page is open. */
export function useOutbox() {
  const cache = useQueryClient();
  const flush = useCallback(async () => {
    let any = false;
    while (await send()) any = true;
    if (any) void cache.invalidateQueries();
  }, [cache]);
  useEffect(() => {
    const go = () => void flush();
    go();
    const timer = window.setInterval(go, 2000);
    window.addEventListener("online", go);
    listeners.add(go);
    return () => {
      window.clearInterval(timer);
      window.removeEventListener("online", go);
      listeners.delete(go);
    };
  }, [flush]);
}
