import { useEffect, useRef, useState } from "react";

/** The width a chart has. */
export function useWidth<T extends HTMLElement>(): [
  React.RefObject<T | null>,
  number,
] {
  const ref = useRef<T>(null);
  const [width, setWidth] = useState(0);
  useEffect(() => {
    const element = ref.current;
    if (!element) return;
    const observer = new ResizeObserver(([entry]) =>
      setWidth(Math.floor(entry?.contentRect.width ?? 0)),
    );
    observer.observe(element);
    return () => observer.disconnect();
  }, []);
  return [ref, width];
}

/** A path through points; NaN breaks it. */
export function path(points: [number, number][]): string {
  let out = "";
  let pen = false;
  for (const [x, y] of points) {
    if (!Number.isFinite(x) || !Number.isFinite(y)) {
      pen = false;
      continue;
    }
    out += `${pen ? "L" : "M"}${x.toFixed(1)} ${y.toFixed(1)}`;
    pen = true;
  }
  return out;
}

/** Steps of time a person counts in, s. */
const STEPS = [
  10, 30, 60, 120, 300, 600, 900, 1800, 3600, 7200, 14400, 21600, 43200, 86400,
];

/** Tick times within a span, at most about `most`. */
export function timeTicks(from: number, to: number, most: number): number[] {
  const step = STEPS.find((s) => (to - from) / s <= most) ?? 86400;
  const out: number[] = [];
  for (let t = Math.ceil(from / step) * step; t <= to; t += step) out.push(t);
  return out;
}

/** 90 → "1:30 min", 600 → "10 min", 7200 → "2 h". */
export function tickText(s: number): string {
  if (s === 0) return "0";
  const sign = s < 0 ? "−" : "";
  const a = Math.abs(s);
  if (a < 60) return `${sign}${a} s`;
  if (a < 7200)
    return a % 60
      ? `${sign}${Math.floor(a / 60)}:${String(a % 60).padStart(2, "0")}`
      : `${sign}${a / 60} min`;
  return `${sign}${+(a / 3600).toFixed(1)} h`;
}
