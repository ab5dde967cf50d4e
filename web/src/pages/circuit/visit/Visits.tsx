import styled from "styled-components";
import { Note } from "../../../look/parts";
import { onDate } from "../../../units/units";
import { Box, Rows, type Circuit } from "../parts";

const Line = styled.li`
  display: grid;
  gap: 2px;
  p {
    color: var(--soft);
  }
`;

/** Earlier visits, a line each, and what they left open. */
export function Visits({ circuit }: { circuit: Circuit }) {
  if (circuit.visits.length < 2) return null;
  return (
    <Box>
      <h2>Visits</h2>
      {circuit.doubts.map((d) => (
        <Note key={d}>{d}</Note>
      ))}
      <Rows>
        {[...circuit.visits].reverse().map((v) => (
          <Line key={v.number}>
            <strong>
              {v.number}. {onDate(v.from_ms)}: {v.reason}. {v.state_title}
            </strong>
            {v.words.length > 0 && <p>{v.words.join("; ")}.</p>}
            {v.next && <p>{v.next}</p>}
          </Line>
        ))}
      </Rows>
    </Box>
  );
}
