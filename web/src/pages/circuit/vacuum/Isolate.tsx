import { useState } from "react";
import styled from "styled-components";
import type { Schemas } from "../../../api/client";
import { keepEvent } from "../../../api/outbox";
import { Button, Primary, Prompt } from "../../../look/parts";
import { WhenShut } from "./WhenShut";

const Box = styled(Prompt)`
  div {
    display: flex;
    gap: 8px;
    flex-wrap: wrap;
  }
`;

/** A decay counts from the moment the valve is shut: asked once, in plain sight. */
export function Isolate({ test }: { test: Schemas["TestView"] }) {
  const [isAsking, setAsking] = useState(false);
  if (!test.asks_isolation) return null;
  const mark = (at_ms: number | null) =>
    keepEvent({ test: test.id, kind: "isolated", at_ms });
  return (
    <Box aria-label="Isolate">
      <b>Shut the valve at the system</b>
      <p>
        {test.plan.hoses_in
          ? "The hoses stay in the test: shut the valve at the pump, then stop it."
          : "Pump and hoses outside."}{" "}
        The clock starts when it is shut.
      </p>
      <div>
        <Primary onPress={() => mark(null)}>Isolated now</Primary>
        {test.reading_count > 0 && !isAsking && (
          <Button onPress={() => setAsking(true)}>Isolated earlier …</Button>
        )}
      </div>
      {isAsking && (
        <WhenShut
          test={test}
          ask="When was it isolated?"
          onSaid={mark}
          onCancel={() => setAsking(false)}
        />
      )}
    </Box>
  );
}
