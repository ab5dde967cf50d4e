import { useQueryClient } from "@tanstack/react-query";
import { useCallback, useEffect, useSyncExternalStore } from "react";
import { openBox } from "./box";
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

const box = openBox<Waiting>("ruhe.waits", (a, b) => a.client_ms - b.client_ms);

/** Puts readings where neither a reload nor a dead network can lose them. */
export function keep(readings: WaitingReading[]) {
  box.put(readings);
}

/** Puts an event there, as of now unless a time is said. */
export function keepEvent(event: {
  test: string;
  kind: Schemas["EventKind"];
  note?: string;
  at_ms?: number | null;
}) {
  box.put([{ note: "", ...event, id: freshId(), client_ms: Date.now() }]);
}

/** Forgets a refused thing after a person has seen why. */
export function drop(id: string) {
  box.take([id]);
}

export const useWaiting = (test: string) =>
  useSyncExternalStore(box.subscribe, box.all).filter((w) => w.test === test);

/** Marks what a refusal names (all of the batch, if it names nothing); only a person takes it away. */
function refuse(batch: readonly Waiting[], e: Refusal) {
  const at = /^readings\.(\d+)\./.exec(e.field ?? "")?.[1];
  const culprits =
    at === undefined ? batch : batch.filter((_, i) => i === Number(at));
  box.put(culprits.map((w) => ({ ...w, refused: e.message })));
}

/** Sends a batch; what the server acknowledges leaves the box. Whether anything came of it. */
async function post(
  batch: readonly Waiting[],
  call: () => Promise<unknown>,
): Promise<boolean> {
  try {
    await call();
    box.take(batch.map((w) => w.id));
    return true;
  } catch (e) {
    if (!(e instanceof Refusal) || e.status >= 500) return false;
    refuse(batch, e);
    return true;
  }
}

/** Sends what waits first: the readings of a test together, an event by itself. Whether anything came of it. */
async function send(): Promise<boolean> {
  const waiting = box.all().filter((w) => !w.refused);
  const first = waiting[0];
  if (!first) return false;
  const path = { id: first.test };
  const sent = (w: Waiting) => ({
    id: w.id,
    at_ms: w.at_ms ?? null,
    logged_ms: w.client_ms,
    client_ms: Date.now(),
  });
  if (!isReading(first)) {
    const body: Schemas["EventInput"] = {
      ...sent(first),
      kind: first.kind,
      note: first.note,
    };
    return await post([first], () =>
      told(client.POST("/api/tests/{id}/events", { params: { path }, body })),
    );
  }
  const batch = waiting.filter(isReading).filter((w) => w.test === first.test);
  const readings = batch.map((w) => ({
    ...sent(w),
    channel_id: w.channel_id,
    typed: w.typed,
  }));
  return await post(batch, () =>
    told(
      client.POST("/api/tests/{id}/readings", {
        params: { path },
        body: { readings },
      }),
    ),
  );
}

/** Keeps sending while the page is open. */
export function useOutbox() {
  const cache = useQueryClient();
  const flush = useCallback(async () => {
    let any = false;
    await box.alone(async () => {
      while (await send()) any = true;
    });
    if (any) void cache.invalidateQueries();
  }, [cache]);
  useEffect(() => {
    const go = () => void flush();
    go();
    const timer = window.setInterval(go, 2000);
    window.addEventListener("online", go);
    const leave = box.subscribe(go);
    return () => {
      window.clearInterval(timer);
      window.removeEventListener("online", go);
      leave();
    };
  }, [flush]);
}
