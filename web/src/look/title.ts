import { useEffect, useSyncExternalStore } from "react";

let title = "";
const heard = new Set<() => void>();
const listen = (f: () => void) => {
  heard.add(f);
  return () => heard.delete(f);
};

/** Says where one is, in the window's title. */
export function useTitle(text: string) {
  useEffect(() => {
    title = text;
    heard.forEach((f) => f());
    return () => {
      title = "";
      heard.forEach((f) => f());
    };
  }, [text]);
}

/** Where one is. */
export const useTitleNow = () => useSyncExternalStore(listen, () => title);
