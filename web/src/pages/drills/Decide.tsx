import { useState } from "react";
import {
  Slider,
  SliderOutput,
  SliderThumb,
  SliderTrack,
  Label,
} from "react-aria-components";
import styled from "styled-components";
import { Refusal, type Schemas } from "../../api/client";
import { useDecide } from "../../api/drills";
import { Button, Primary, Trouble, Head } from "../../look/parts";
import { Pick } from "../../look/Pick";

const Stack = styled.div`
  display: grid;
  gap: 14px;
`;
const Sure = styled(Slider)`
  display: grid;
  grid-template-columns: 1fr auto;
  gap: 2px 12px;
  label {
    font-weight: 600;
  }
  output {
    font-family: var(--mono);
    font-size: var(--t-large);
    font-weight: 650;
  }
  .track {
    grid-column: 1 / -1;
    height: 48px;
    position: relative;
    margin: 0 14px;
    &::before {
      content: "";
      position: absolute;
      inset: 22px -14px;
      border-radius: 2px;
      background: var(--edge);
    }
  }
  input {
    width: 48px;
    height: 48px;
  }
  .thumb {
    width: 28px;
    height: 40px;
    top: 50%;
    border-radius: 6px;
    border: 2px solid var(--accent);
    background: var(--raised);
    &[data-focus-visible] {
      outline: 3px solid var(--accent);
      outline-offset: 2px;
    }
  }
`;

const GIVES: { id: Schemas["Give"]; text: string }[] = [
  { id: "pass", text: "It passes" },
  { id: "reserved", text: "It passes, with a reservation" },
  { id: "fail", text: "It does not pass as it stands" },
  { id: "not_proven", text: "Nothing is proven either way" },
];

/** What it was, what becomes of it, how sure. */
export function Decide({
  drill,
  onDone,
}: {
  drill: Schemas["DrillView"];
  onDone: () => void;
}) {
  const decide = useDecide();
  const [cause, setCause] = useState<Schemas["DrillCause"] | "">("");
  const [place, setPlace] = useState("");
  const [give, setGive] = useState<Schemas["Give"] | "">("");
  const [sure, setSure] = useState(70);
  const chosen = drill.causes.find((c) => c.cause === cause);
  const isWhole = chosen && give !== "" && (!chosen.has_place || place !== "");
  const refusal = decide.error instanceof Refusal ? decide.error : null;
  return (
    <Stack>
      <Head>
        <h2>Decide</h2>
        <Button onPress={onDone}>Not yet</Button>
      </Head>
      <p>This ends the drill. Then you see what was true.</p>
      <Pick
        label="What it was"
        value={cause}
        onChange={setCause}
        options={drill.causes.map((c) => ({ id: c.cause, text: c.title }))}
      />
      {chosen?.has_place && (
        <Pick
          label="Where"
          value={place}
          onChange={setPlace}
          options={drill.places.map((p) => ({ id: p, text: p }))}
        />
      )}
      <Pick
        label="What becomes of it, as it stands now"
        value={give}
        onChange={setGive}
        options={GIVES}
      />
      <Sure
        value={sure}
        onChange={(v) => setSure(Number(v))}
        minValue={0}
        maxValue={100}
        step={5}
      >
        <Label>How sure are you?</Label>
        <SliderOutput>{`${sure} %`}</SliderOutput>
        <SliderTrack className="track">
          <SliderThumb className="thumb" />
        </SliderTrack>
      </Sure>
      <Trouble of={refusal} />
      <span>
        <Primary
          isDisabled={!isWhole || decide.isPending}
          onPress={() => {
            if (cause && give)
              decide.mutate(
                {
                  cause,
                  place: chosen?.has_place ? place : "",
                  give,
                  sure: sure / 100,
                },
                { onSuccess: onDone },
              );
          }}
        >
          Decide, and see
        </Primary>
      </span>
    </Stack>
  );
}
