import { ClipboardPaste } from "lucide-react";
import { useState } from "react";
import styled from "styled-components";
import { freshId, type Schemas } from "../../api/client";
import { keep } from "../../api/outbox";
import { Button, Field, Note, Pick, Primary } from "../../look/parts";
import { timeOf } from "../../units/units";
import { now as nowHere } from "../../api/clock";

const Box = styled.section`
  display: grid;
  gap: 10px;
  border-top: 1px solid var(--line);
  padding-top: 10px;
`;

/** A line of a pasted column: a time and a figure, as they stand. */
interface Line {
  at_ms: number;
  typed: string;
}

/** Reads pasted lines, each a time and a figure; the first that cannot be is named. */
function read(text: string): Line[] | string {
  const out: Line[] = [];
  for (const [i, raw] of text.split(/\r?\n/).entries()) {
    const line = raw.trim();
    if (!line) continue;
    const m = /^(\S+)[\s;,]+([−-]?[\d.]+)$/.exec(line);
    const at = m?.[1] ? (timeOf(m[1]) ?? Date.parse(m[1])) : NaN;
    if (!m?.[2] || !Number.isFinite(at))
      return `Line ${i + 1}, “${line}”, is not a time and a figure, like 14:05 300.2.`;
    out.push({ at_ms: at, typed: m[2].replace("−", "-") });
  }
  return out.length ? out : "Nothing was pasted.";
}

/** A column of readings from a note or a sheet, into one channel, each at its own time. */
export function Paste({ test }: { test: Schemas["TestView"] }) {
  const [isOpen, setOpen] = useState(false);
  const [channel, setChannel] = useState(test.channels[0]?.id ?? "");
  const [text, setText] = useState("");
  const [problem, setProblem] = useState<string | null>(null);
  if (!isOpen)
    return (
      <Button onPress={() => setOpen(true)}>
        <ClipboardPaste size={19} aria-hidden />
        Paste a column
      </Button>
    );
  const log = () => {
    const lines = read(text);
    if (typeof lines === "string") return setProblem(lines);
    keep(
      lines.map((l) => ({
        id: freshId(),
        test: test.id,
        channel_id: channel,
        typed: l.typed,
        at_ms: l.at_ms,
        client_ms: nowHere(),
      })),
    );
    setText("");
    setProblem(null);
    setOpen(false);
  };
  return (
    <Box aria-label="Paste a column">
      <Pick
        label="Into"
        value={channel}
        onChange={setChannel}
        options={test.channels.map((c) => ({
          id: c.id,
          text: `${c.name}, ${c.unit.replace("deg", "°")}`,
        }))}
      />
      <Field
        label="Times and figures, one reading a line"
        value={text}
        onChange={setText}
        isLong
        placeholder={"14:05 300.2\n14:10 300.1"}
        hint="In the channel’s unit; with seconds or a whole date where it matters."
      />
      {problem && (
        <Note $kind="wrong" role="alert">
          {problem}
        </Note>
      )}
      <span style={{ display: "flex", gap: 8 }}>
        <Primary onPress={log}>Log them</Primary>
        <Button onPress={() => setOpen(false)}>Leave it</Button>
      </span>
    </Box>
  );
}
