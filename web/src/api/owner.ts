/** Whose page this is, as the server said last: what is entered here belongs to them, and is sent only as them. */
export interface Owner {
  /** Empty: nobody is known there yet. */
  id: string;
  name: string;
}

const KEY = "ruhe.owner";

function stored(): Owner | null {
  try {
    return JSON.parse(localStorage.getItem(KEY) ?? "null") as Owner | null;
  } catch {
    return null;
  }
}

let known = stored();
const leaving = new Set<() => void>();

/** Nobody, if nobody is signed in. */
export const owner = () => known;

/** Calls `act` when somebody else comes or the last one goes: what they took along goes with them. */
export function onLeaving(act: () => void) {
  leaving.add(act);
  return () => void leaving.delete(act);
}

/** Notes who is signed in now. */
export function belongsTo(next: Owner | null) {
  const was = known;
  known = next;
  if (next) localStorage.setItem(KEY, JSON.stringify(next));
  else localStorage.removeItem(KEY);
  if (was && was.id !== next?.id) for (const act of leaving) act();
}
