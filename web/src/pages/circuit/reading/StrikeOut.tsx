import { useState } from "react";
import styled from "styled-components";
import { useWrite, writes } from "../../../api/queries";
import { Button, Field, Note, Quiet } from "../../../look/parts";

const Row = styled.span`
  display: flex;
  flex-wrap: wrap;
  gap: 8px;
  align-items: end;
  padding: 8px 0;
`;

/** Strikes out something that was said, with a reason. It stays on the record, and counts no longer. */
export function StrikeOut({
  circuit,
  entry,
  what,
  label,
}: {
  circuit: string;
  /** Id of its entry. */
  entry: string;
  what: string;
  /** On the button, where it does not stand beside what it strikes out. */
  label?: string;
}) {
  const [isOpen, setOpen] = useState(false);
  const [reason, setReason] = useState("");
  const strike = useWrite(writes.void(circuit));
  if (!isOpen)
    return (
      <Quiet
        onPress={() => setOpen(true)}
        aria-label={label ?? `Strike out: ${what}`}
      >
        {label ?? "Strike out"}
      </Quiet>
    );
  return (
    <Row data-question>
      <Field
        label={`Why ${what} counts no longer`}
        value={reason}
        onChange={setReason}
        placeholder="pressed by mistake"
        error={strike.error?.message}
      />
      <Button
        isDisabled={strike.isPending}
        onPress={() => strike.mutate({ entry, reason })}
      >
        Strike out
      </Button>
      <Quiet onPress={() => setOpen(false)}>Cancel</Quiet>
    </Row>
  );
}

/** What was struck out on a circuit, with the reasons. */
export function Struck({
  struck,
}: {
  struck: { what: string; reason: string; at_ms: number }[];
}) {
  if (!struck.length) return null;
  return (
    <Note>
      Struck out: {struck.map((s) => `${s.what} (${s.reason})`).join("; ")}.
    </Note>
  );
}
