import type { Schemas } from "../../api/client";

/** How a probe may sit. */
export const SITS: { id: Schemas["Placement"] | "unsaid"; text: string }[] = [
  { id: "unsaid", text: "not said" },
  { id: "strapped", text: "strapped and lagged, bare pipe" },
  { id: "clamped", text: "clamped on, bare" },
  { id: "air", text: "hanging in the air" },
  { id: "infrared", text: "infrared, start and end" },
];

export type Sits = (typeof SITS)[number]["id"];
