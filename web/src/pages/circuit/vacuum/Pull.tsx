import styled from "styled-components";
import type { Schemas } from "../../../api/client";
import { keepEvent } from "../../../api/outbox";
import { Button, Primary, Prompt, Low } from "../../../look/parts";
import { atClock, span, trimmed, useUnits } from "../../../units/units";
import { DecayNow } from "./DecayNow";
import { Steps } from "../inside/Press";

const Box = styled(Prompt)`
  & > b {
    font-size: var(--t-large);
  }
`;
/** The evacuation as stages with prompts: which pull, when it arrives, valve-offs and breaks as one press each. */
export function Pull({ test }: { test: Schemas["TestView"] }) {
  const units = useUnits();
  const pull = test.verdict.pull;
  if (!pull) return null;
  const mark = (kind: Schemas["EventKind"], note = "") =>
    keepEvent({ test: test.id, kind, note });
  const isOff = test.is_valve_off;
  const isDue = test.verdict.reasons.includes("break_due");
  const stages = test.plan.stages?.length
    ? test.plan.stages
    : [{ target_pa: pull.target_pa, dwell_s: 0 }];
  const clock = (s: number | null | undefined) =>
    s == null ? null : atClock(test.start_ms + s * 1000);
  const [low, mid, high] = [
    clock(pull.arrival_low_s),
    clock(pull.arrival_s),
    clock(pull.arrival_high_s),
  ];
  return (
    <Box aria-label="Evacuation">
      <Steps aria-label="Pulls">
        {stages.map((s, i) => (
          <li
            key={i}
            className={
              i < pull.at || (i === pull.at && pull.pulls[i]?.took_s != null)
                ? "done"
                : undefined
            }
            aria-current={i === pull.at ? "step" : undefined}
          >
            {trimmed(units.of("vacuum", s.target_pa), 4)}{" "}
            {units.label("vacuum")}
            {s.break_pa != null ? `, then nitrogen ${span(s.dwell_s)}` : ""}
          </li>
        ))}
      </Steps>
      {mid ? (
        <b>
          Back at {mid}
          {low && high && low !== high && ` (${low} to ${high})`}
          {low && !high && ` (${low} at the earliest)`}
        </b>
      ) : null}
      {pull.break_until_s != null && (
        <b>Nitrogen until {clock(pull.break_until_s)}</b>
      )}
      {pull.prompts.length > 0 && (
        <ul aria-label="At this level">
          {pull.prompts.map((p) => (
            <li key={p}>{p}</li>
          ))}
        </ul>
      )}
      {pull.held_by.length > 0 && (
        <ol aria-label="What may hold it up">
          {pull.held_by.slice(0, 4).map((h, i) => (
            <li key={h.code}>
              {i + 1}. {h.to_try}
            </li>
          ))}
        </ol>
      )}
      <Low>
        {isOff ? (
          <Primary onPress={() => mark("pump_on", "valve open again")}>
            Valve open again
          </Primary>
        ) : (
          <Button onPress={() => mark("isolated", "quick valve-off")}>
            Valve off for a moment
          </Button>
        )}
        {pull.at + 1 >= pull.count && !isOff && (
          <DecayNow
            test={test}
            isReached={test.verdict.outcome === "reached"}
          />
        )}
        {pull.at + 1 < pull.count &&
          (isDue ? (
            <Primary onPress={() => mark("nitrogen_break")}>
              Broken with nitrogen now
            </Primary>
          ) : (
            <Button onPress={() => mark("nitrogen_break")}>
              Broken with nitrogen now
            </Button>
          ))}
      </Low>
    </Box>
  );
}
