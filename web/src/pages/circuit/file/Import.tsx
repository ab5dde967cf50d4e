import { useState } from "react";
import { FileTrigger, ProgressBar } from "react-aria-components";
import styled from "styled-components";
import type { Schemas } from "../../../api/client";
import {
  sendLog,
  sendPackage,
  useFileLook,
  type FileReading,
  useWrite,
  writes,
} from "../../../api/queries";
import {
  Button,
  Field,
  Grid,
  Note,
  Primary,
  Quiet,
  Stack,
  Trouble,
} from "../../../look/parts";
import { Pick } from "../../../look/Pick";
import { Columns } from "./Columns";
import { Gives, Open } from "./Looked";
import { keep, lastOf, readAs, type Reading } from "./memory";

const Sample = styled.div`
  overflow-x: auto;
  font-size: var(--t-small);
  table {
    border-collapse: collapse;
    font-family: var(--mono);
  }
  th,
  td {
    text-align: left;
    padding: 2px 10px;
    border-bottom: 1px solid var(--line);
    font-weight: 400;
    white-space: nowrap;
  }
  th {
    color: var(--soft);
  }
`;

const Sent = styled.div`
  display: grid;
  gap: 4px;
  max-width: 420px;
  div {
    height: 10px;
    border: 1px solid var(--edge);
    border-radius: 5px;
    overflow: hidden;
  }
  i {
    display: block;
    height: 100%;
    background: var(--accent);
  }
`;

/** A logger's file that was chosen. */
interface Chosen {
  name: string;
  found: Schemas["FileView"];
}

/** A package goes in whole; a logger's file is read as it was confirmed, and what may be read in two ways is asked. */
export function Import({
  circuit,
  kind,
  onMade,
}: {
  circuit: string;
  kind: Schemas["Kind"];
  onMade: (id: string) => void;
}) {
  const [file, setFile] = useState<Chosen | null>(null);
  const zip = useWrite((f: File) => sendPackage(circuit, f));
  const [sent, setSent] = useState(0);
  const guess = useWrite((f: File) => sendLog(f, setSent));
  const take = (f: File) => {
    zip.reset();
    guess.reset();
    setFile(null);
    setSent(0);
    if (f.name.toLowerCase().endsWith(".zip")) {
      zip.mutate(f, { onSuccess: onMade });
      return;
    }
    guess.mutate(f, {
      onSuccess: (found) => setFile({ name: f.name, found }),
    });
  };
  return (
    <Stack>
      <FileTrigger
        acceptedFileTypes={[
          ".zip",
          ".csv",
          ".tsv",
          ".txt",
          "text/csv",
          "text/plain",
          "application/zip",
        ]}
        onSelect={(files) => {
          const f = files?.[0];
          if (f) take(f);
        }}
      >
        <Button>Choose a file</Button>
      </FileTrigger>
      {guess.isPending && sent < 1 && (
        <ProgressBar value={100 * sent} aria-label="The file is sent">
          {({ percentage, valueText }) => (
            <Sent>
              <span>Sending {valueText}</span>
              <div>
                <i style={{ width: `${String(percentage ?? 0)}%` }} />
              </div>
            </Sent>
          )}
        </ProgressBar>
      )}
      {(zip.isPending || (guess.isPending && sent === 1)) && (
        <p role="status">Reading …</p>
      )}
      <Trouble of={zip.error ?? guess.error} />
      {file && (
        <Confirm
          key={file.found.token}
          file={file}
          of={{ circuit, kind }}
          onMade={onMade}
        />
      )}
    </Stack>
  );
}

/** A logger's file before it is taken. */
function Confirm({
  file,
  of: { circuit, kind },
  onMade,
}: {
  file: Chosen;
  of: { circuit: string; kind: Schemas["Kind"] };
  onMade: (id: string) => void;
}) {
  const { found } = file;
  const [as, setAs] = useState<Reading>(() => readAs(found));
  const [isSure, setSure] = useState(false);
  const change = (part: Partial<Reading>) => {
    setSure(false);
    setAs({ ...as, ...part });
  };
  const csv = useWrite(writes.csv(circuit));
  const taken = as.columns.flatMap(({ heading, quantity, unit }) =>
    quantity === "skip" ? [] : [{ heading, quantity, unit }],
  );
  const reading: FileReading = {
    token: found.token,
    kind,
    plan: {},
    time_heading: as.time,
    date_heading: as.date === "none" ? null : as.date,
    zone: as.zone.trim() || null,
    answers: as.answers,
    columns: taken.map((c) => ({
      heading: c.heading,
      channel: { name: c.heading, quantity: c.quantity, unit: c.unit },
    })),
  };
  const look = useFileLook(circuit, taken.length > 0 ? reading : null);
  const dates = found.columns.filter((c) => c.is_date).map((c) => c.heading);
  // What was given for another reading of it is no answer to this one.
  const gives = look.isPlaceholderData ? null : look.data?.gives;
  const answered = Object.values(as.answers).some((a) => a != null);
  const send = () => {
    csv.mutate(
      { ...reading, is_sure: isSure },
      {
        onSuccess: (made) => {
          keep(found.shape, as);
          onMade(made.id);
        },
      },
    );
  };
  return (
    <Stack>
      <p>
        {found.words.join(" ")} Please confirm the rest: what is wrong here is
        wrong in the verdict.
      </p>
      {lastOf(found.shape) && (
        <Note>
          Read as the last file of this shape was. Change what is otherwise in
          this one.
        </Note>
      )}
      <Sample aria-label="First rows of the file">
        <table>
          <thead>
            <tr>
              {found.columns.map((c) => (
                <th key={c.heading} scope="col">
                  {c.heading}
                </th>
              ))}
            </tr>
          </thead>
          <tbody>
            {found.sample.map((row, i) => (
              <tr key={i}>
                {row.map((cell, k) => (
                  <td key={k}>{cell}</td>
                ))}
              </tr>
            ))}
          </tbody>
        </table>
      </Sample>
      <Grid>
        <Pick
          label="Column with the time"
          value={as.time}
          onChange={(time) => change({ time })}
          options={[as.time, ...as.columns.map((c) => c.heading)]
            .filter((h, i, all) => h && all.indexOf(h) === i)
            .map((id) => ({ id, text: id }))}
        />
        {dates.length > 0 && (
          <Pick
            label="Column with the date"
            value={as.date}
            onChange={(date) => change({ date })}
            options={[
              ...dates.map((id) => ({ id, text: id })),
              { id: "none", text: "the time has its own date" },
            ]}
          />
        )}
        {look.data?.needs_place && (
          <Field
            label="Time zone of the logger"
            value={as.zone}
            onChange={(zone) => change({ zone })}
            hint="as this device has it; the file’s own dates decide on summer time"
          />
        )}
      </Grid>
      <Columns of={as.columns} onChange={(columns) => change({ columns })} />
      <Open
        questions={look.data?.questions ?? []}
        onAnswer={(about, code) =>
          change({ answers: { ...as.answers, [about]: code } })
        }
      />
      {answered && (
        <span>
          <Quiet onPress={() => change({ answers: {} })}>
            Ask again how it is to be read
          </Quiet>
        </span>
      )}
      {look.isFetching && <p role="status">Reading …</p>}
      {gives && <Gives of={gives} isSure={isSure} onSure={setSure} />}
      <Trouble of={csv.error ?? look.error} />
      <span>
        <Primary
          onPress={send}
          isDisabled={
            csv.isPending || !gives || (gives.doubts.length > 0 && !isSure)
          }
        >
          Take these columns
        </Primary>
      </span>
    </Stack>
  );
}
