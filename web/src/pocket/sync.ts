import type { Schemas } from "../api/say";
import { onLeaving } from "../api/owner";
import { emptyPocket, hasPocket, onTrap, putBag, putShelf } from "./pocket";
import { PIECES, shelf } from "./shelf";

/** How far a circuit was taken along: entries, readings, the last piece, and the last one that all of it came in. */
interface Far {
  seq: number;
  cursor: number;
  pieces: number;
  whole: number;
}
const known = new Map<string, Far>();

/** Where the log of a circuit ends with this bag, and what its readings end with. */
function note(bag: Schemas["Bag"], pieces: number, whole: number): Far {
  const far = {
    seq: bag.from_seq + bag.lines.length,
    cursor: bag.cursor,
    pieces,
    whole,
  };
  known.set(bag.circuit, far);
  return far;
}

/** Enters in the pocket what waits to be sent: the outbox says how. */
let enterWaiting: () => Promise<void> = () => Promise.resolve();
export const entersAgain = (how: () => Promise<void>) => {
  enterWaiting = how;
};

/** Opens what was taken along earlier, and enters again what is waiting. Done once. */
async function open() {
  const kept = await shelf.get<Schemas["ShelfBag"]>("shelf");
  if (kept) await putShelf(kept);
  for (const bag of await shelf.bags())
    if (await putBag(bag))
      note(
        bag,
        bag.n,
        bag.more ? bag.n + 1 : (known.get(bag.circuit)?.whole ?? 0),
      );
  await enterWaiting();
}

let opened: Promise<void> | undefined;
/** What was taken along, ready to answer. */
export const pocketReady = () =>
  (opened ??= hasPocket ? open() : Promise.resolve());

/** Forgets what was entered here and enters again only what still waits: something was taken back, or not kept. */
export function reopen() {
  if (!hasPocket) return;
  opened = open();
  sync("all");
}

/** So often the pocket is filled again after the rules stopped in it; what stops them each time is left alone then. */
let refills = 3;
onTrap(() => {
  if (refills-- > 0) reopen();
});

/** Whoever goes leaves nothing behind but what was not sent: what they took along is gone, on disk and in memory. */
onLeaving(() => {
  wanted = undefined;
  known.clear();
  emptyPocket();
  opened = undefined;
  void shelf.clear();
});

async function fetched<T>(path: string): Promise<T> {
  const response = await fetch(path);
  if (!response.ok) throw new Error(`${path}: ${response.status}`);
  return (await response.json()) as T;
}

/** Takes a circuit along, or what was added to it; a long one comes in pieces. */
async function take(circuit: string) {
  const was = known.get(circuit);
  const path = `/api/circuits/${circuit}/bag`;
  let at = was && was.pieces < was.whole + PIECES ? was : undefined;
  for (;;) {
    const bag = await fetched<Schemas["Bag"]>(
      at ? `${path}?seq=${at.seq}&after=${at.cursor}` : path,
    );
    if (!(await putBag(bag))) {
      if (!at) return;
      // It does not go on where the last one ended: all of it anew.
      at = undefined;
      continue;
    }
    const hasMore =
      bag.lines.length > 0 || Object.keys(bag.readings).length > 0;
    const pieces = at ? at.pieces + Number(hasMore) : 0;
    if (!at || hasMore) await shelf.keep(bag, pieces);
    at = note(bag, pieces, bag.more || !at ? pieces : at.whole);
    if (!bag.more) return;
  }
}

let busy: Promise<void> | undefined;
let wanted: Set<string> | "all" | undefined;

/** The page first, and only then what it may need without the server. */
const idle = () =>
  new Promise<void>((done) => {
    if ("requestIdleCallback" in window)
      window.requestIdleCallback(() => done(), { timeout: 3_000 });
    else setTimeout(done, 1_000);
  });

async function run(which: Set<string> | "all") {
  if (!opened) await idle();
  await pocketReady();
  if (which === "all") {
    const all = await fetched<Schemas["ShelfBag"]>("/api/pocket");
    await putShelf(all);
    await shelf.set("shelf", all);
    for (const id of known.keys())
      if (!all.circuits.some((c) => c.id === id)) {
        known.delete(id);
        await shelf.leave(id);
      }
    // Only those of which there is more, or may be.
    which = new Set(
      all.circuits
        .filter((c) => c.is_read || known.get(c.id)?.seq !== c.seq)
        .map((c) => c.id),
    );
  }
  for (const id of which) await take(id);
  // Taking a bag forgets what was entered here; what is still waiting is entered again.
  await enterWaiting();
}

/** Takes along everything in work, or a few circuits. What comes meanwhile waits for its turn. */
export function sync(which: "all" | string[]) {
  if (!hasPocket) return;
  if (which === "all" || wanted === "all") wanted = "all";
  else wanted = new Set([...(wanted ?? []), ...which]);
  busy ??= (async () => {
    while (wanted) {
      const now = wanted;
      wanted = undefined;
      // Without the network there is nothing to take; it is tried again when it is back.
      await run(now).catch(() => undefined);
    }
  })().finally(() => (busy = undefined));
}
