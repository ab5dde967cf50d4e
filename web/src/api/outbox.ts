import { useQueryClient } from "@tanstack/react-query";
import { useCallback, useEffect, useSyncExternalStore } from "react";
import { client, Refusal, told, type Schemas } from "./client";

type ReadingInput = Schemas["ReadingInput"];

/** A reading logged here and not yet acknowledged by the server. */
export interface Waiting extends ReadingInput {
  test: string;
  /** Why the server refused it, if it did: it then waits for a person. */
  refused?: string;
}

const KEY = "ruhe.outbox";
const listeners = new Set<() => void>();
let box: readonly Waiting[] = read();

function read(): readonly Waiting[] {
  try {
    return JSON.parse(localStorage.getItem(KEY) ?? "[]") as Waiting[];
  } catch {
    return [];
  }
}

function write(next: readonly Waiting[]) {
  box = next;
  localStorage.setItem(KEY, JSON.stringify(next));
  for (const tell of listeners) tell();
}

function subscribe(listener: () => void) {
  listeners.add(listener);
  const other = (e: StorageEvent) => {
    if (e.key === KEY) {
      box = read();
      listener();
    }
  };
  window.addEventListener("storage", other);
  return () => {
    listeners.delete(listener);
    window.removeEventListener("storage", other);
  };
}

/** Puts readings where neither a reload nor a dead network can lose them. */
export function keep(readings: Waiting[]) {
  write([...box, ...readings]);
}

/** Forgets a refused reading after a person has seen why. */
export function drop(id: string) {
  write(box.filter((w) => w.id !== id));
}

export const useWaiting = (test: string) => useSyncExternalStore(subscribe, () => box).filter((w) => w.test === test);

let sending = false;

/** Sends what waits, a test at a time; what the server acknowledges leaves the box. */
async function send(): Promise<boolean> {
  const test = box.find((w) => !w.refused)?.test;
  if (sending || test === undefined) return false;
  sending = true;
  const batch = box.filter((w) => w.test === test && !w.refused);
  const gone = new Set(batch.map((w) => w.id));
  try {
    const readings = batch.map(({ id, channel_id, typed, at_ms, client_ms }) => ({ id, channel_id, typed, at_ms: at_ms ?? null, logged_ms: client_ms, client_ms: Date.now() }));
    await told(client.POST("/api/tests/{id}/readings", { params: { path: { id: test } }, body: { readings } }));
    write(box.filter((w) => !gone.has(w.id)));
    return true;
  } catch (e) {
    if (e instanceof Refusal && e.status < 500) {
      // The batch is all or nothing: the one at fault is named, the others try again.
      const at = /^readings\.(\d+)\./.exec(e.field ?? "")?.[1];
      const culprit = at === undefined ? gone : new Set([batch[Number(at)]?.id]);
      write(box.map((w) => (culprit.has(w.id) ? { ...w, refused: e.message } : w)));
      return true;
    }
    return false;
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
