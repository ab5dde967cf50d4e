import { useState } from "react";
import styled from "styled-components";
import type { Schemas } from "../../../api/client";
import { useWrite, writes } from "../../../api/queries";
import { Button, Field, Grid, Note, Primary, Quiet } from "../../../look/parts";

const Box = styled.div`
  display: grid;
  gap: 8px;
  padding: 6px 0 12px;
`;
const Line = styled.div`
  display: flex;
  flex-wrap: wrap;
  gap: 8px;
`;

/** The usual reasons, in a tap each. */
const REASONS = ["misread", "slip of a digit", "wrong field"];

/** A row put right: what each figure should have been, or that it counts no longer, with the reason. */
export function MendRow({
  row,
  heads,
  onDone,
}: {
  row: Schemas["MomentView"];
  heads: string[];
  onDone: () => void;
}) {
  const [should, setShould] = useState<Record<string, string>>({});
  const [reason, setReason] = useState("");
  const [problem, setProblem] = useState<string | null>(null);
  const strike = useWrite(writes.strike);
  const cells = row.cells.flatMap((c, i) =>
    c && !c.struck ? [{ ...c, head: heads[i] ?? "" }] : [],
  );
  const wrong = cells.filter((c) => (should[c.id] ?? "").trim());
  const save = async (of: typeof cells) => {
    if (!of.length)
      return setProblem("Type what a figure should have been, or strike out.");
    setProblem(null);
    try {
      for (const c of of)
        await strike.mutateAsync({
          reading: c.id,
          reason,
          instead: (should[c.id] ?? "").trim() || null,
        });
      onDone();
    } catch {
      // What was refused is said below.
    }
  };
  return (
    <Box role="group" aria-label="Mend the row">
      <Grid $min={130}>
        {cells.map((c) => (
          <Field
            key={c.id}
            label={`${c.head}: ${c.typed}, should be`}
            value={should[c.id] ?? ""}
            onChange={(v) => setShould({ ...should, [c.id]: v })}
            inputMode="decimal"
          />
        ))}
        <Field
          label="Why"
          value={reason}
          onChange={setReason}
          placeholder="misread, wrong field"
        />
      </Grid>
      <Line role="group" aria-label="Usual reasons">
        {REASONS.map((r) => (
          <Button
            key={r}
            aria-pressed={reason === r}
            onPress={() => setReason(r)}
          >
            {r}
          </Button>
        ))}
      </Line>
      {(problem ?? strike.error) && (
        <Note $kind="wrong" role="alert">
          {problem ?? strike.error?.message}
        </Note>
      )}
      <Line>
        <Primary isDisabled={strike.isPending} onPress={() => void save(wrong)}>
          Correct it
        </Primary>
        <Button isDisabled={strike.isPending} onPress={() => void save(cells)}>
          Strike out the row
        </Button>
        <Quiet onPress={onDone}>Cancel</Quiet>
      </Line>
    </Box>
  );
}
