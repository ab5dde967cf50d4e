import type { FromWorker, ToWorker } from "./worker";
import { drill } from "../api/room";

/** A request as the pocket takes it. */
export interface PocketRequest {
  method: string;
  path: string;
  query?: Record<string, string>;
  body?: unknown;
  id?: string;
  device?: string;
  said_ms?: number;
}

/** Its answer, as the server would give it. */
export interface PocketReply {
  status: number;
  body: unknown;
}

type Told = { ok: true } | { error: string; trapped?: true } | PocketReply;

const waiting = new Map<number, (told: Told) => void>();
/** What is done when the rules stopped in the middle: the pocket is empty then. */
const trapped = new Set<() => void>();

/** Is told when the pocket lost what was in it. */
export const onTrap = (refill: () => void) => trapped.add(refill);

let worker: Worker | undefined;
let count = 0;

/** Whether there is anything to work with without the server: it was built, this browser can run it, and it is no
 * drill. */
export const hasPocket =
  drill === null && __WASM__ !== "" && typeof Worker !== "undefined";

function ask(call: unknown, bytes?: ArrayBuffer): Promise<Told> {
  if (!hasPocket) return Promise.resolve({ error: "not built" });
  if (!worker) {
    worker = new Worker(new URL("./worker.ts", import.meta.url), {
      type: "module",
    });
    worker.onmessage = ({ data }: MessageEvent<FromWorker>) => {
      const told = data.told as Told;
      waiting.get(data.n)?.(told);
      waiting.delete(data.n);
      if ("trapped" in told) for (const refill of trapped) refill();
    };
    // A worker that does not start answers nothing; nobody is left waiting.
    worker.onerror = () => {
      for (const tell of waiting.values()) tell({ error: "no worker" });
      waiting.clear();
    };
  }
  const n = ++count;
  const message: ToWorker = { n, call, bytes };
  return new Promise((tell) => {
    waiting.set(n, tell);
    worker?.postMessage(message, bytes ? [bytes] : []);
  });
}

/** Forgets everything: the next question finds an empty pocket. */
export function emptyPocket() {
  worker?.terminate();
  worker = undefined;
  for (const tell of waiting.values()) tell({ error: "emptied" });
  waiting.clear();
}

/** Puts kit and procedures in. */
export const putShelf = (shelf: unknown) => ask({ call: "shelf", shelf });
/** Puts a circuit in, or more of it. Whether it went on where the last bag ended. */
export const putBag = async (bag: unknown) =>
  "ok" in (await ask({ call: "bag", bag }));

/** Asks as one would ask the server; null: the pocket cannot say. */
export async function askPocket(
  request: PocketRequest,
  bytes?: ArrayBuffer,
): Promise<PocketReply | null> {
  const told = await ask(
    { call: "answer", request, now_ms: Date.now() },
    bytes,
  );
  return "status" in told ? told : null;
}
