import { useState } from "react";
import type { Schemas } from "../../../api/client";

type Scale = Schemas["ScaleInput"];

const FIRST: Scale = {
  mode: "counts_down",
  unit: "kg",
  step: "0.005",
  start: "",
  hose_full: true,
};
const key = (circuit: string) => `ruhe.scale.${circuit}`;

/** The scale as it stands there: the same on the large view, and after a reload. */
export function useScale(circuit: string): [Scale, (s: Scale) => void] {
  const [scale, setScale] = useState<Scale>(() => {
    try {
      return {
        ...FIRST,
        ...(JSON.parse(
          localStorage.getItem(key(circuit)) ?? "{}",
        ) as Partial<Scale>),
      };
    } catch {
      return FIRST;
    }
  });
  return [
    scale,
    (s) => {
      localStorage.setItem(key(circuit), JSON.stringify(s));
      setScale(s);
    },
  ];
}

/** It can be asked for a number. */
export const isReady = (s: Scale) =>
  s.step.trim() !== "" &&
  (s.mode !== "counts_down" || (s.start ?? "").trim() !== "");
