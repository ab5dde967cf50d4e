import { TriangleAlert } from "lucide-react";
import styled from "styled-components";
import type { Schemas } from "../../api/client";
import { Button } from "../../look/parts";

const Strip = styled.section`
  grid-area: untested;
  display: flex;
  flex-wrap: wrap;
  gap: 6px 14px;
  align-items: center;
  border: 2px solid var(--falling);
  border-radius: 8px;
  padding: 6px 12px;
  margin-bottom: 8px;
  p {
    flex: 1 1 16em;
    display: flex;
    gap: 8px;
    align-items: center;
    font-weight: 620;
    line-height: 1.2;
  }
  svg {
    flex: none;
    color: var(--falling);
  }
`;

/** A leak that showed and was not tested again: over every stage until it is. */
export function UntestedStrip({
  untested,
  stage,
  go,
}: {
  untested: Schemas["UntestedView"];
  stage: string;
  go: (stage: string, test?: string) => void;
}) {
  const isHold = untested.stage === "hold";
  // Whoever is there already needs no way there.
  const isThere = !isHold && stage === untested.stage;
  return (
    <Strip aria-label="Not tested again">
      <p>
        <TriangleAlert size={20} aria-hidden />
        {untested.words}
      </p>
      {!isThere && (
        <Button onPress={() => go(untested.stage, isHold ? "new" : undefined)}>
          {untested.next}
        </Button>
      )}
    </Strip>
  );
}
