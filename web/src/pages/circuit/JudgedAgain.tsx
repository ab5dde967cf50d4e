import { useState } from "react";
import styled from "styled-components";
import type { Schemas } from "../../api/client";
import { useJudgedAgain } from "../../api/queries";
import { Quiet } from "../../look/parts";
import { Word } from "../../look/verdict";

const Box = styled.section`
  display: grid;
  gap: 6px;
  border-top: 1px solid var(--line);
  padding-top: 8px;
`;

/** An ended test judged again by this version of the method, beside what was frozen: it changes nothing. */
export function JudgedAgain({ test }: { test: Schemas["TestView"] }) {
  const [isOpen, setOpen] = useState(false);
  const { data, error } = useJudgedAgain(isOpen ? test.id : undefined);
  if (!isOpen)
    return (
      <span>
        <Quiet onPress={() => setOpen(true)}>Judge it again</Quiet>
      </span>
    );
  if (error) return <p role="alert">{error.message}</p>;
  if (!data) return <p role="status">One moment …</p>;
  return (
    <Box aria-label="Judged again">
      <h3>Judged again by {data.now.engine_version}</h3>
      <p>
        {data.is_same
          ? "The same as when it ended."
          : `Frozen by ${data.frozen.engine_version}; that is what counts.`}{" "}
        {data.is_sealed
          ? "The readings are those that were sealed."
          : "The readings are NOT those that were sealed."}
      </p>
      {!data.is_same && (
        <>
          <Word word={data.now.word} shape={data.now.shape} />
          <ul>
            {data.differs.map((d) => (
              <li key={d}>{d}</li>
            ))}
          </ul>
        </>
      )}
    </Box>
  );
}
