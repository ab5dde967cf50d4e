import styled from "styled-components";
import { freshId, type Schemas } from "../../api/client";
import { useWrite, writes } from "../../api/queries";
import { Button, Note, Primary, Prompt } from "../../look/parts";

const Box = styled(Prompt)`
  div { display: flex; gap: 8px; flex-wrap: wrap; }
`;

/** A decay counts from the moment the valve is shut: asked once, in plain sight. */
export function Isolate({ test }: { test: Schemas["TestView"] }) {
  const save = useWrite(writes.event(test.id));
  if (test.kind !== "vacuum-decay" || !test.verdict.reasons.some((r) => r === "awaits_isolation" || r === "too_few_readings") || test.events.some((e) => e.kind === "isolated")) return null;
  const mark = (at_ms: number | null) => save.mutate({ id: freshId(), kind: "isolated", note: "", at_ms });
  return (
    <Box aria-label="Isolate">
      <b>Shut the valve at the system</b>
      <p>Pump {test.plan.hoses_in ? "off; the hoses stay in the test" : "and hoses outside"}; the clock starts when it is shut.</p>
      <div>
        <Primary isDisabled={save.isPending} onPress={() => mark(null)}>Isolated now</Primary>
        {test.reading_count > 0 && <Button isDisabled={save.isPending} onPress={() => mark(test.start_ms)}>It was isolated at the first reading</Button>}
      </div>
      {save.error && <Note $kind="wrong" role="alert">{save.error.message}</Note>}
    </Box>
  );
}
