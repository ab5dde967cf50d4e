import { useAlerts } from "../api/alerts";
import type { Schemas } from "../api/client";
import { useNow } from "./now";

/** Draws nothing; rings for one test. Apart, so that its seconds redraw nothing else. */
export function Alerts({ test }: { test: Schemas["TestView"] }) {
  useAlerts(test, useNow());
  return null;
}
