import { useEffect, useRef, useSyncExternalStore } from "react";
import type { Schemas } from "./client";

const KEY = "ruhe.chime";
const listeners = new Set<() => void>();
let sound: AudioContext | null = null;

// On unless somebody said otherwise: the chime is why one may look away.
const isOn = () => localStorage.getItem(KEY) !== "off";

/** Whether Ruhe may make itself heard on this device. */
export const useChime = () =>
  useSyncExternalStore((l) => {
    listeners.add(l);
    return () => listeners.delete(l);
  }, isOn);

/** Browsers let a page sound only after a press: the first one on any page opens the way. */
export function readySound() {
  const first = () => {
    sound ??= new AudioContext();
    void sound.resume();
  };
  for (const kind of ["pointerup", "keydown"])
    window.addEventListener(kind, first, { once: true });
}

/** Switches the chime; to hear it once is the check that it can be heard. Browsers ask for notifications, where
 * they exist at all. */
export function setChime(on: boolean) {
  localStorage.setItem(KEY, on ? "on" : "off");
  if (on) {
    sound ??= new AudioContext();
    chime();
    if ("Notification" in window && Notification.permission === "default")
      void Notification.requestPermission();
  }
  for (const tell of listeners) tell();
}

/** Two rising tones, loud enough for a plant room. */
function chime() {
  if (!sound) return;
  void sound.resume();
  [660, 990].forEach((hertz, i) => {
    if (!sound) return;
    const [tone, volume, at] = [
      sound.createOscillator(),
      sound.createGain(),
      sound.currentTime + i * 0.28,
    ];
    tone.frequency.value = hertz;
    volume.gain.setValueAtTime(0.5, at);
    volume.gain.exponentialRampToValueAtTime(0.001, at + 0.5);
    tone.connect(volume).connect(sound.destination);
    tone.start(at);
    tone.stop(at + 0.5);
  });
}

/** Rings, and shows a notification where that is allowed. */
export function tell(text: string) {
  chime();
  if ("Notification" in window && Notification.permission === "granted") {
    const options = { body: text, tag: text, icon: "/icon-192.png" };
    // Phones allow notifications only through a service worker, and a page without one only its own.
    const worker = navigator.serviceWorker as
      ServiceWorkerContainer | undefined;
    void worker?.getRegistration().then((r) => {
      if (r) return r.showNotification("Ruhe", options);
      try {
        new Notification("Ruhe", options);
      } catch {
        // The chime and the screen remain.
      }
    });
  }
}

/** A minute's warning before a gauge switches itself off. */
const BEFORE = 60_000;

/** Mounted once a test (with its id as key): alerts when it is due, when it falls, when a target or the ballast's
 * level is reached, when a reading is due or a gauge is about to switch off. Each once. */
export function useAlerts(test: Schemas["TestView"] | undefined, now: number) {
  const told = useRef(new Set<string>());
  const on = useChime();
  const was = useRef<string | null>(null);
  const word = test?.verdict.word;
  const prompted = useRef<string | null>(null);
  const prompt = test?.verdict.pull?.prompts[0];
  useEffect(() => {
    if (!test || test.ended_ms != null) return;
    const once = (key: string, at: number | null | undefined, text: string) => {
      const id = `${test.id} ${key} ${at ?? 0}`;
      if (at == null || now < at || told.current.has(id)) return;
      told.current.add(id);
      // What was due long before the page was opened is on the screen; it need not ring.
      if (on && now - at < 120_000) tell(text);
    };
    // A pull-down's arrival is a forecast that moves: its words ring, not its clock.
    const isForecast =
      test.kind === "pull-down" && test.verdict.pull?.break_until_s == null;
    once("due", isForecast ? null : test.due_ms, `${test.title} is due.`);
    once("read", test.read_at_ms, `${test.title}: a reading is due.`);
    once(
      "off",
      test.off_at_ms == null ? null : test.off_at_ms - BEFORE,
      `${test.title}: the gauge is about to switch itself off.`,
    );
    if (
      on &&
      word !== undefined &&
      was.current !== null &&
      was.current !== word
    )
      tell(`${test.title}: ${word}. ${test.verdict.headline}.`);
    if (
      on &&
      prompt !== undefined &&
      prompted.current !== null &&
      prompted.current !== prompt
    )
      tell(`${test.title}: ${prompt}`);
    prompted.current = prompt ?? prompted.current;
    was.current = word ?? null;
  }, [test, now, on, word, prompt]);
}
