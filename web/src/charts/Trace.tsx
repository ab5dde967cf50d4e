import type { Schemas } from "../api/client";
import { bare, useIsCovered } from "../look/Covered";
import { DecayTrace } from "./DecayTrace";
import { HoldTrace } from "./HoldTrace";
import { LeakByTrace } from "./LeakByTrace";
import { PullTrace } from "./PullTrace";

/** A test's trace, drawn as its kind asks for. */
export function Trace({
  test,
  height,
}: {
  test: Schemas["TestView"];
  height?: number;
}) {
  const size = height === undefined ? {} : { height };
  const isCovered = useIsCovered();
  const verdict = isCovered ? bare(test.verdict) : test.verdict;
  switch (test.kind) {
    case "pressure-hold":
      return (
        <HoldTrace
          verdict={verdict}
          planned={test.plan.planned_s ?? null}
          {...size}
        />
      );
    case "leak-by":
      return <LeakByTrace verdict={verdict} {...size} />;
    case "pull-down":
      return <PullTrace verdict={verdict} {...size} />;
    default:
      return (
        <DecayTrace
          verdict={verdict}
          argued={isCovered ? null : test.argued}
          {...size}
        />
      );
  }
}
