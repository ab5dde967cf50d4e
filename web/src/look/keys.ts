import { useEffect } from "react";

const KEY = "ruhe.keys";

/** Single keys can be switched off (WCAG 2.1.4): speech input and tremor fire them by accident. */
export const areKeysOn = () => localStorage.getItem(KEY) !== "off";
export const setKeys = (on: boolean) =>
  localStorage.setItem(KEY, on ? "on" : "off");

/** Every single key, for the list behind “?”. */
export const KEYS: [string, string][] = [
  ["R", "to the reading pad"],
  ["E", "to the events"],
  ["G", "glance: the whole screen"],
  ["[ and ]", "stage before and after"],
  ["U", "units and settings"],
  ["?", "these keys"],
];

/** Calls `act` on a single key, but never while a field, a list or a trace has the focus. */
export function useKey(key: string, act: () => void) {
  useEffect(() => {
    const press = (e: KeyboardEvent) => {
      const busy =
        e.target instanceof Element &&
        e.target.closest(
          "input, textarea, select, [contenteditable], [role=slider], [role=listbox], [role=dialog]",
        );
      if (
        e.key.toLowerCase() !== key ||
        busy ||
        e.metaKey ||
        e.ctrlKey ||
        e.altKey ||
        !areKeysOn()
      )
        return;
      e.preventDefault();
      act();
    };
    window.addEventListener("keydown", press);
    return () => window.removeEventListener("keydown", press);
  });
}
