import { openDB, type DBSchema } from "idb";

/** What waits in the browser's database, shared by all tabs: neither a reload nor a dead network loses it. */
export interface Box<T extends { id: string }> {
  /** As it is known now; the same array until something changes. */
  all(): readonly T[];
  put(things: readonly T[]): void;
  /** The same, done when it is stored; fails if it cannot be. */
  store(things: readonly T[]): Promise<void>;
  take(ids: readonly string[]): void;
  subscribe(listener: () => void): () => void;
  /** Whether something could not be stored and hangs by this page alone. */
  isLoose(): boolean;
  /** Runs `act` unless this or another tab is at it already. */
  alone(act: () => Promise<void>): Promise<void>;
}

/** Opens a box. What cannot be stored is kept in memory, and is sent all the same while the page is open. */
export function openBox<T extends { id: string }>(
  name: string,
  order: (a: T, b: T) => number,
): Box<T> {
  interface Schema extends DBSchema {
    waits: { key: string; value: T };
  }
  const db = openDB<Schema>(name, 1, {
    upgrade: (d) => void d.createObjectStore("waits", { keyPath: "id" }),
  });
  const tabs = new BroadcastChannel(name);
  const listeners = new Set<() => void>();
  /** Put here, and not yet known to be stored. */
  const unsaved = new Map<string, T>();
  /** Taken here, and perhaps still to be found in the database. */
  const taken = new Set<string>();
  let stored: readonly T[] = [];
  let known: readonly T[] = [];
  let isBusy = false;
  let isLoose = false;

  const tell = () => {
    const all = new Map(stored.map((t) => [t.id, t]));
    for (const [id, t] of unsaved) all.set(id, t);
    for (const id of taken) all.delete(id);
    known = [...all.values()].sort(order);
    for (const listener of listeners) listener();
  };
  const look = async () => {
    stored = await (await db).getAll("waits");
    tell();
  };
  const change = async (put: readonly T[], take: readonly string[]) => {
    const tx = (await db).transaction("waits", "readwrite", {
      durability: "strict",
    });
    for (const t of put) void tx.store.put(t);
    for (const id of take) void tx.store.delete(id);
    await tx.done;
    tabs.postMessage(null);
  };
  tabs.onmessage = () => void look();
  void look();

  // A browser short of room may throw away what a site keeps; asked not to, it seldom does.
  void (navigator.storage as StorageManager | undefined)?.persist?.();

  return {
    all: () => known,
    put(things) {
      for (const t of things) {
        unsaved.set(t.id, t);
        taken.delete(t.id);
      }
      tell();
      void change(things, [])
        .then(() => {
          for (const t of things) unsaved.delete(t.id);
          isLoose = unsaved.size > 0;
        })
        .then(look, () => {
          isLoose = true;
          tell();
        });
    },
    async store(things) {
      for (const t of things) taken.delete(t.id);
      await change(things, []);
      await look();
    },
    take(ids) {
      for (const id of ids) {
        unsaved.delete(id);
        taken.add(id);
      }
      tell();
      void change([], ids).then(look, tell);
    },
    isLoose: () => isLoose && unsaved.size > 0,
    subscribe(listener) {
      listeners.add(listener);
      return () => void listeners.delete(listener);
    },
    async alone(act) {
      if (isBusy) return;
      isBusy = true;
      try {
        // Without TLS a browser has no locks; two tabs may then send the same, and the server keeps it once.
        const locks = navigator.locks as LockManager | undefined;
        if (!locks) return await act();
        await locks.request(name, { ifAvailable: true }, (lock) =>
          lock ? act() : undefined,
        );
      } finally {
        isBusy = false;
      }
    },
  };
}
