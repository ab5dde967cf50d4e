import { Square } from "lucide-react";
import { useState } from "react";
import styled from "styled-components";
import type { Schemas } from "../../api/client";
import { useWrite, writes } from "../../api/queries";
import { Button, Note, Primary, Sheet } from "../../look/parts";

const Ask = styled(Sheet)`
  div {
    display: flex;
    gap: 8px;
    flex-wrap: wrap;
  }
`;

/** Ending a test says first what it would cut short. */
export function End({ test }: { test: Schemas["TestView"] }) {
  const [isAsking, setAsking] = useState(false);
  const end = useWrite(writes.end(test.id));
  const go = () => end.mutate(undefined, { onSettled: () => setAsking(false) });
  const button = (text: string, onPress: () => void) => (
    <Primary isDisabled={end.isPending} onPress={onPress}>
      <Square size={18} aria-hidden />
      {text}
    </Primary>
  );
  const error = end.error && (
    <Note $kind="wrong" role="alert">
      {end.error.message}
    </Note>
  );
  if (isAsking && test.cuts_short)
    return (
      <Ask aria-label={`End ${test.title}`}>
        <b>{test.cuts_short}</b>
        <div>
          {button("End it all the same", go)}
          <Button onPress={() => setAsking(false)}>Go on</Button>
        </div>
        {error}
      </Ask>
    );
  return (
    <>
      {button(
        `End ${test.title}`,
        test.cuts_short ? () => setAsking(true) : go,
      )}
      {error}
    </>
  );
}
