import type { Schemas } from "../../api/client";
import { useIsCovered } from "../../look/Covered";
import { BreakVacuum } from "./charge/BreakVacuum";
import { SignOff } from "./signoff/SignOff";
import { Arrive } from "./arrival/Arrive";
import { Charge } from "./charge/Charge";
import { Ports } from "./ports/Ports";
import { Steps } from "./Steps";
import { StartUp } from "./startup/StartUp";
import { Visits } from "./visit/Visits";
import type { Circuit } from "./parts";

/** What the rooms of the nouns add to a stage. */
export default function StageRoom({
  circuit,
  stage,
  isReadOnly,
}: {
  circuit: Circuit;
  stage: Schemas["StageView"];
  isReadOnly: boolean;
}) {
  const isCovered = useIsCovered();
  const it = { circuit, isReadOnly };
  switch (stage.code) {
    case "arrive":
      return (
        <>
          <Visits circuit={circuit} />
          <Arrive {...it} />
        </>
      );
    case "evacuate":
      return circuit.kind === "kit" ? null : <Ports {...it} only="cores" />;
    case "break_vacuum":
      return (
        <>
          <BreakVacuum {...it} stage={stage} />
          <Ports {...it} />
        </>
      );
    case "charge":
      return <Charge {...it} />;
    case "start_up": {
      // What must be done before the power goes on stands first, until it is.
      const isReady = stage.steps.some((s) => s.step === "stems_open");
      const steps = <Steps {...it} stage={stage} />;
      return (
        <>
          {!isReady && steps}
          <StartUp {...it} />
          <Ports {...it} />
          {isReady && steps}
        </>
      );
    }
    case "sign_off":
      // Its gates say what was found.
      return isCovered ? null : <SignOff circuit={circuit} />;
    default:
      return null;
  }
}
