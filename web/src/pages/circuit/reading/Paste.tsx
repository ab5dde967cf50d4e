import { ClipboardPaste } from "lucide-react";
import { useState } from "react";
import { freshId, type Schemas } from "../../../api/client";
import { keep } from "../../../api/outbox";
import { Button, Field, Note, Primary, Sheet, Row } from "../../../look/parts";
import { Pick } from "../../../look/Pick";
import { timeOf } from "../../../units/units";
import { now as nowHere } from "../../../api/clock";

/** A line of what was pasted: a time and its figures, as they stand. */
interface Line {
  at_ms: number;
  typed: string[];
}

/** Reads pasted lines, each a time and at most so many figures; the first that cannot be is named. */
function read(text: string, most: number): Line[] | string {
  const out: Line[] = [];
  for (const [i, raw] of text.split(/\r?\n/).entries()) {
    const line = raw.trim();
    if (!line) continue;
    const m = /^(\S+?)((?:[\s;,]+[−-]?[\d.]+)+)$/.exec(line);
    const at = m?.[1] ? (timeOf(m[1]) ?? Date.parse(m[1])) : NaN;
    const typed = (m?.[2] ?? "")
      .split(/[\s;,]+/)
      .filter(Boolean)
      .map((x) => x.replace("−", "-"));
    if (!typed.length || !Number.isFinite(at))
      return `Line ${i + 1}, “${line}”, is not a time and a figure, like 14:05 300.2.`;
    if (typed.length > most)
      return `Line ${i + 1}, “${line}”, has ${typed.length} figures for ${most}.`;
    out.push({ at_ms: at, typed });
  }
  return out.length ? out : "Nothing was pasted.";
}

/** Columns of readings from a note or a sheet: the first into one channel, the next into those after it. */
export default function Paste({ test }: { test: Schemas["TestView"] }) {
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
    const first = test.channels.findIndex((c) => c.id === channel);
    const into = test.channels.slice(first);
    const lines = read(text, into.length);
    if (typeof lines === "string") return setProblem(lines);
    keep(
      lines.flatMap((l) =>
        l.typed.map((typed, i) => ({
          id: freshId(),
          test: test.id,
          channel_id: into[i]?.id ?? channel,
          typed,
          at_ms: l.at_ms,
          client_ms: nowHere(),
        })),
      ),
    );
    setText("");
    setProblem(null);
    setOpen(false);
  };
  return (
    <Sheet aria-label="Paste a column">
      <Pick
        label={test.channels.length > 1 ? "First column into" : "Into"}
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
        placeholder={
          test.channels.length > 1
            ? "14:05 300.2 70.1\n14:10 300.1 70.0"
            : "14:05 300.2\n14:10 300.1"
        }
        hint="In the channel’s unit; with seconds or a whole date where it matters."
      />
      {problem && (
        <Note $kind="wrong" role="alert">
          {problem}
        </Note>
      )}
      <Row>
        <Primary onPress={log}>Log them</Primary>
        <Button onPress={() => setOpen(false)}>Leave it</Button>
      </Row>
    </Sheet>
  );
}
