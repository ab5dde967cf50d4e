import { Check, CircleSlash, PenLine } from "lucide-react";
import { useState } from "react";
import { Link } from "react-router";
import styled from "styled-components";
import { Form, FormEnd } from "../../../form/Form";
import { type Schemas } from "../../../api/client";
import { useWrite, writes } from "../../../api/queries";
import { useMay } from "../../../api/session";
import { Button, Field, Note } from "../../../look/parts";
import { Way } from "../../../look/Way";
import { Signature } from "../../Record";
import { Box } from "../parts";
import { After } from "./After";
import { Consent } from "./Consent";
import { SignForm } from "./SignForm";
import { Visits } from "../visit/Visits";
import { Struck } from "../reading/StrikeOut";
import { Corrections } from "../survey/WhatItIs";

const Gate = styled.li`
  border-top: 1px solid var(--line);
  padding: 10px 0;
  display: grid;
  grid-template-columns: 26px 1fr;
  gap: 2px 10px;
  h3 {
    font-size: var(--t-body);
    font-weight: 620;
  }
  p {
    color: var(--soft);
  }
  div {
    grid-column: 2;
  }
  a {
    margin-right: 14px;
  }
  .missing {
    color: var(--falling);
  }
`;
const Reason = styled(Form)`
  display: grid;
  gap: 8px;
  padding: 10px 0;
`;

function GateItem({
  circuit,
  gate,
  way,
  isReadOnly,
}: {
  circuit: string;
  gate: Schemas["GateView"];
  /** Where it is met. */
  way: Schemas["GateWay"] | undefined;
  isReadOnly: boolean;
}) {
  const [isOpen, setOpen] = useState(false);
  const [words, setWords] = useState("");
  const save = useWrite(writes.override(circuit));
  const approve = useWrite(writes.approval(circuit));
  const mayAnswer = useMay("override");
  return (
    <Gate data-testid={`gate-${gate.code}`}>
      {gate.met && <Check aria-label="met" />}
      {!gate.met && gate.overridden && <PenLine aria-label="overridden" />}
      {!gate.met && !gate.overridden && (
        <CircleSlash className="missing" aria-label="missing" />
      )}
      <h3>{gate.title}</h3>
      <div>
        <p>{gate.evidence}</p>
        {gate.reservation && (
          <p>
            <strong>Reservation:</strong> {gate.reservation}
          </p>
        )}
        {gate.overridden && (
          <p>
            <strong>Not done, because:</strong> {gate.overridden}
          </p>
        )}
        {gate.waits && (
          <p>
            <strong>Said not to be done:</strong> it waits for somebody who may
            answer for it.{" "}
            {mayAnswer && !isReadOnly && (
              <Button onPress={() => approve.mutate(gate.waits ?? "")}>
                Answer for it
              </Button>
            )}
          </p>
        )}
        {way && (
          <Way
            to={`/circuits/${circuit}?stage=${way.stage}${way.gate === "retest_after_repair" ? "&test=new" : ""}`}
            aria-label={`${way.text}: ${gate.title}`}
          >
            {way.text}
          </Way>
        )}
        {!gate.met &&
          !gate.overridden &&
          !gate.waits &&
          gate.can_be_answered &&
          !isReadOnly &&
          !isOpen && (
            <Button
              onPress={() => setOpen(true)}
              aria-label={`Not done, because: ${gate.title}`}
            >
              Not done, because …
            </Button>
          )}
        {isOpen && !gate.overridden && !gate.waits && (
          <Reason
            save={save}
            onSubmit={() => {
              save.mutate({ gate: gate.code, words });
            }}
          >
            <Field
              label="Why it was not done, in a sentence of your own"
              value={words}
              onChange={setWords}
              isLong
              name="words"
            />
            <FormEnd>Say so; it prints on the record</FormEnd>
          </Reason>
        )}
      </div>
    </Gate>
  );
}

/** The gates with their evidence, then the signature. */
export function SignOff({ circuit }: { circuit: Schemas["CircuitView"] }) {
  const missing = circuit.gates.filter((g) => !g.met && !g.overridden).length;
  const isSigned = circuit.signature != null;
  return (
    <Box>
      <h2>Gates</h2>
      <ul>
        {circuit.gates.map((g) => (
          <GateItem
            key={g.code}
            circuit={circuit.id}
            gate={g}
            way={circuit.gate_ways.find((w) => w.gate === g.code)}
            isReadOnly={isSigned}
          />
        ))}
      </ul>
      <Struck struck={circuit.struck} />
      <Corrections circuit={circuit} />
      {circuit.has_older_engine && (
        <Note>
          A test here was judged by an older version of the method than this
          one; what was frozen then is what counts.
        </Note>
      )}
      <Consent circuit={circuit} isReadOnly={isSigned} />
      {circuit.signature && (
        <>
          <Signature signature={circuit.signature} />
          <p>
            This visit is signed.{" "}
            <Link to={`/circuits/${circuit.id}/record`}>Open the record</Link>.
          </p>
          <After circuit={circuit} />
        </>
      )}
      {!isSigned && missing > 0 && (
        <Note>
          {missing === 1 ? "One gate is" : `${missing} gates are`} missing. Meet{" "}
          {missing === 1 ? "it" : "them"} or say why it was not done; until then
          only states that say so can be signed.
        </Note>
      )}
      {!isSigned && circuit.this_visit.history_says_leak && (
        <Note>
          A part of its charge went missing and nothing was mended: it is not
          simply passed.
        </Note>
      )}
      {!isSigned && <SignForm circuit={circuit} />}
      <Visits circuit={circuit} />
    </Box>
  );
}
