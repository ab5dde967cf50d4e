import { ChevronDown, ChevronUp, TriangleAlert } from "lucide-react";
import { useState } from "react";
import styled from "styled-components";
import { Refusal, type Schemas } from "../../api/client";
import { useWrite, writes } from "../../api/queries";
import { Form } from "../../look/Form";
import { Button, Field, Grid, HiddenText, Note, Pick } from "../../look/parts";
import { HAND } from "../../look/screen";
import { atClock } from "../../units/units";
import { useOffered } from "./finish/parts";

const Line = styled.button`
  display: flex;
  align-items: center;
  gap: 8px;
  width: 100%;
  min-height: 48px;
  padding: 4px 0;
  border: 0;
  border-top: 1px solid var(--line);
  background: transparent;
  color: var(--ink);
  text-align: left;
  cursor: pointer;
  & > span {
    flex: 1;
    min-width: 0;
    line-height: 1.25;
  }
  svg {
    flex: none;
  }
  @media ${HAND} {
    font-size: var(--t-note);
  }
`;
const Held = styled.span<{ $hurts: boolean }>`
  display: inline-block;
  ${(p) => p.$hurts && "font-weight: 650;"}
  &::first-letter {
    text-transform: uppercase;
  }
`;
const Area = styled.section`
  min-width: 0;
`;
const Open = styled.div`
  display: grid;
  gap: 12px;
  padding: 4px 0 12px;
  h2 {
    font-size: var(--t-body);
  }
  li {
    border-top: 1px solid var(--line);
    padding: 6px 0;
  }
  small {
    color: var(--soft);
    display: block;
  }
`;
const Sides = styled.div`
  display: flex;
  flex-wrap: wrap;
  gap: 8px;
`;

type Inside = Schemas["InsideView"];
type Side = Schemas["GaugeSide"];

/** A reading taken now, outside any test: the digits, then the side it was read at. */
function Correct({
  circuit,
  onDone,
}: {
  circuit: Schemas["CircuitView"];
  onDone: () => void;
}) {
  const { inside } = circuit;
  const offered = useOffered("pressure");
  const units = [...offered, { id: "micron", text: "micron" }];
  const alone = inside.sections.length === 1 ? (inside.sections[0] ?? "") : "";
  const [section, setSection] = useState(alone);
  const [typed, setTyped] = useState("");
  const [unit, setUnit] = useState(units[0]?.id ?? "psig");
  const [besides, setBesides] = useState<Schemas["Besides"] | "">("");
  const save = useWrite(writes.seen(circuit.id));
  const refusal = save.error instanceof Refusal ? save.error : null;
  const log = (side: Side) =>
    save.mutate(
      {
        left: {
          section: section || null,
          side,
          pressure: { typed, unit },
        },
        besides: besides || null,
        at_ms: null,
      },
      {
        onSuccess: () => {
          setTyped("");
          onDone();
        },
      },
    );
  const sides: [Side, string][] = [
    ["both", "Log: both sides"],
    ["high", "High side only"],
    ["low", "Low side only"],
  ];
  return (
    <Form
      refusal={refusal}
      onSubmit={(e) => e.preventDefault()}
      aria-label="It is not so: a reading now"
    >
      <Open>
        <h2>It is not so: read the gauge now</h2>
        <Grid $min={130}>
          {inside.spaces.length > 1 && (
            <Pick
              label="Read at"
              value={section}
              onChange={setSection}
              options={inside.spaces.map((s) => ({ id: s.name, text: s.name }))}
              name="left.section"
            />
          )}
          <Field
            label="The gauge shows"
            value={typed}
            onChange={setTyped}
            inputMode="decimal"
            name="left.pressure.typed"
          />
          <Pick label="Unit" value={unit} onChange={setUnit} options={units} />
          <Pick
            label="Known besides, if anything"
            value={besides}
            onChange={(b) => setBesides(b)}
            options={[
              { id: "", text: "nothing" },
              { id: "air", text: "air may be in it" },
              { id: "nitrogen", text: "nitrogen may be in it" },
              { id: "refrigerant", text: "refrigerant may be in it" },
            ]}
          />
        </Grid>
        <Sides>
          {sides.map(([side, text]) => (
            <Button
              key={side}
              isDisabled={save.isPending || !typed.trim()}
              onPress={() => log(side)}
            >
              {text}
            </Button>
          ))}
        </Sides>
        {save.error && !refusal?.field && (
          <Note $kind="wrong" role="alert">
            {save.error.message}
          </Note>
        )}
      </Open>
    </Form>
  );
}

function Story({ inside }: { inside: Inside }) {
  return (
    <ol reversed>
      {inside.story.map((m, i) => (
        <li key={`${m.entry}-${i}`}>
          <strong>{m.words}</strong>
          {m.at_ms != null && ` · ${atClock(m.at_ms)}`}
          {m.by && ` · ${m.by}`}
          <small>{m.after.join(" · ")}</small>
        </li>
      ))}
    </ol>
  );
}

/** What is inside now, in one line on every page of a circuit; opened, how it came so and how to put it right. */
export function InsideLine({
  circuit,
  isReadOnly,
}: {
  circuit: Schemas["CircuitView"];
  isReadOnly: boolean;
}) {
  const [isOpen, setOpen] = useState(false);
  const { inside } = circuit;
  const hurts = inside.spaces.some((s) => s.can_hurt);
  const latest = Math.max(0, ...inside.spaces.map((s) => s.seen_ms ?? 0));
  return (
    <Area aria-label="What is inside now" data-testid="inside">
      <Line
        type="button"
        aria-expanded={isOpen}
        onClick={() => setOpen(!isOpen)}
      >
        {hurts && <TriangleAlert size={18} aria-hidden />}
        <span>
          <HiddenText>Inside: </HiddenText>
          <Held $hurts={hurts}>
            {inside.line}
            {latest > 0 && `, ${atClock(latest)}`}
          </Held>
        </span>
        {isOpen ? (
          <ChevronUp size={18} aria-hidden />
        ) : (
          <ChevronDown size={18} aria-hidden />
        )}
      </Line>
      {isOpen && (
        <>
          {!isReadOnly && (
            <Correct circuit={circuit} onDone={() => setOpen(false)} />
          )}
          <Open>
            <h2>What was inside, the last first</h2>
            <Story inside={inside} />
          </Open>
        </>
      )}
    </Area>
  );
}
