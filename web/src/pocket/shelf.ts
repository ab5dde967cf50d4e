import { openDB, type DBSchema } from "idb";
import type { Schemas } from "../api/say";

/** Circuits as they were taken along, in pieces: each bag goes on where the one before ended. */
interface Taken extends DBSchema {
  bags: { key: [string, number]; value: Schemas["Bag"] & { n: number } };
  /** What is one thing: kit and procedures; who is signed in. */
  single: { key: string; value: unknown };
}

/** A circuit in more pieces than this is fetched whole again. */
export const PIECES = 60;

const db = openDB<Taken>("ruhe.pocket", 1, {
  upgrade(d) {
    d.createObjectStore("bags", { keyPath: ["circuit", "n"] });
    d.createObjectStore("single");
  },
});

const of = (circuit: string) =>
  IDBKeyRange.bound([circuit, 0], [circuit, Infinity]);

export const shelf = {
  async bags(): Promise<(Schemas["Bag"] & { n: number })[]> {
    return await (await db).getAll("bags");
  },
  /** Keeps a bag; one from the beginning replaces all before it. */
  async keep(bag: Schemas["Bag"], n: number) {
    const tx = (await db).transaction("bags", "readwrite");
    if (bag.from_seq === 0) await tx.store.delete(of(bag.circuit));
    await tx.store.put({ ...bag, n });
    await tx.done;
  },
  async leave(circuit: string) {
    await (await db).delete("bags", of(circuit));
  },
  async get<T>(name: string): Promise<T | undefined> {
    return (await (await db).get("single", name)) as T | undefined;
  },
  async set(name: string, value: unknown) {
    await (await db).put("single", value, name);
  },
  /** Everything that was taken along, gone: whoever signs out leaves nothing behind but what was not sent. */
  async clear() {
    const d = await db;
    await d.clear("bags");
    await d.clear("single");
  },
};
