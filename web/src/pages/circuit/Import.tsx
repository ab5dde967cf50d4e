import { useState } from "react";
import { FileTrigger } from "react-aria-components";
import styled from "styled-components";
import type { Schemas } from "../../api/client";
import { sendPackage, useWrite, writes } from "../../api/queries";
import { Button, Field, Grid, Note, Pick, Primary } from "../../look/parts";
import { useUnits } from "../../units/units";

const Box = styled.div`
  display: grid;
  gap: 12px;
  padding-bottom: 12px;
`;
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
const Column = styled.div`
  border-top: 1px solid var(--line);
  padding-top: 8px;
`;

const QUANTITIES = [
  { id: "skip", text: "leave out" },
  { id: "gauge_pressure", text: "gauge pressure" },
  { id: "absolute_pressure", text: "absolute pressure or vacuum" },
  { id: "temperature", text: "temperature" },
  { id: "barometric_pressure", text: "barometer" },
];

/** What was confirmed for a shape of file, offered for the next one of it. */
interface Remembered {
  time: string;
  date: string;
  offset: string;
  dayFirst: string;
  columns: Mapped[];
}
const KEY = "ruhe.loggers";
const remembered = (): Record<string, Remembered> => {
  try {
    return JSON.parse(localStorage.getItem(KEY) ?? "{}") as Record<
      string,
      Remembered
    >;
  } catch {
    return {};
  }
};

/** The bytes of a file in base64: what they mean is for the rules to find out, not every logger writes UTF-8. */
async function base64(file: File): Promise<string> {
  const url = await new Promise<string>((done, fail) => {
    const reader = new FileReader();
    reader.onload = () => done(String(reader.result));
    reader.onerror = () => fail(reader.error ?? new Error("not readable"));
    reader.readAsDataURL(file);
  });
  return url.slice(url.indexOf(",") + 1);
}

interface Mapped {
  heading: string;
  example: string;
  quantity: Schemas["Quantity"] | "skip";
  unit: Schemas["Unit"];
}

/** A package goes in whole; a logger's CSV asks for its columns to be confirmed. */
export function Import({
  circuit,
  kind,
  onMade,
}: {
  circuit: string;
  kind: Schemas["Kind"];
  onMade: (id: string) => void;
}) {
  const { meta } = useUnits();
  const [file, setFile] = useState<{
    name: string;
    content: string;
    found: Schemas["FileView"];
  } | null>(null);
  const [dayFirst, setDayFirst] = useState("");
  const [time, setTime] = useState("");
  const [date, setDate] = useState<{ heading: string; all: string[] }>({
    heading: "none",
    all: [],
  });
  const [offset, setOffset] = useState(
    String(-new Date().getTimezoneOffset() / 60),
  );
  const [columns, setColumns] = useState<Mapped[]>([]);
  const zip = useWrite((f: File) => sendPackage(circuit, f));
  const guess = useWrite(writes.columns);
  const csv = useWrite(writes.csv(circuit));
  const error = zip.error ?? guess.error ?? csv.error;
  const take = async (f: File) => {
    zip.reset();
    guess.reset();
    csv.reset();
    setFile(null);
    if (f.name.toLowerCase().endsWith(".zip")) {
      zip.mutate(f, { onSuccess: onMade });
      return;
    }
    const content = await base64(f);
    guess.mutate(
      { file: f.name, content },
      {
        onSuccess: (found) => {
          setFile({ name: f.name, content, found });
          const before = remembered()[found.shape];
          const dates = found.columns
            .filter((c) => c.is_date)
            .map((c) => c.heading);
          setTime(
            before?.time ??
              found.columns.find((c) => c.is_time)?.heading ??
              found.columns[0]?.heading ??
              "",
          );
          setDate({ heading: before?.date ?? dates[0] ?? "none", all: dates });
          setDayFirst(before?.dayFirst ?? "");
          if (before) setOffset(before.offset);
          setColumns(
            found.columns
              .filter((c) => !c.is_time && !c.is_date)
              .map((c) => {
                const was = before?.columns.find(
                  (x) => x.heading === c.heading,
                );
                return {
                  heading: c.heading,
                  example: c.example,
                  quantity: was?.quantity ?? c.quantity ?? "skip",
                  unit: was?.unit ?? c.unit ?? "psig",
                };
              }),
          );
        },
      },
    );
  };
  const send = () => {
    if (!file) return;
    const taken = columns.flatMap(({ heading, quantity, unit }) =>
      quantity === "skip" ? [] : [{ heading, quantity, unit }],
    );
    const body: Schemas["CsvImport"] = {
      file: file.name,
      content: file.content,
      kind,
      plan: { remarks: [] },
      time_heading: time,
      date_heading: date.heading === "none" ? null : date.heading,
      offset_minutes: Math.round(Number(offset) * 60),
      day_first: dayFirst === "" ? null : dayFirst === "day",
      columns: taken.map((c) => ({
        heading: c.heading,
        channel: { name: c.heading, quantity: c.quantity, unit: c.unit },
      })),
    };
    csv.mutate(body, {
      onSuccess: (made) => {
        const all = {
          ...remembered(),
          [file.found.shape]: {
            time,
            date: date.heading,
            offset,
            dayFirst,
            columns,
          },
        };
        localStorage.setItem(KEY, JSON.stringify(all));
        onMade(made.id);
      },
    });
  };
  const unitsFor = (q: string) =>
    meta.units
      .filter(
        (u) =>
          u.dimension === (q === "temperature" ? "temperature" : "pressure"),
      )
      .map((u) => ({ id: u.code, text: u.label }));
  return (
    <Box>
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
          if (f) void take(f);
        }}
      >
        <Button>Choose a file</Button>
      </FileTrigger>
      {(zip.isPending || guess.isPending || csv.isPending) && (
        <p role="status">Reading …</p>
      )}
      {error && (
        <Note $kind="wrong" role="alert">
          {error.message}
        </Note>
      )}
      {file && (
        <>
          <p>
            {file.found.words.join(" ")} Please confirm the rest: what is wrong
            here is wrong in the verdict.
          </p>
          <Sample aria-label="First rows of the file">
            <table>
              <thead>
                <tr>
                  {file.found.columns.map((c) => (
                    <th key={c.heading} scope="col">
                      {c.heading}
                    </th>
                  ))}
                </tr>
              </thead>
              <tbody>
                {file.found.sample.map((row, i) => (
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
              value={time}
              onChange={setTime}
              options={[time, ...columns.map((c) => c.heading)]
                .filter((h, i, all) => h && all.indexOf(h) === i)
                .map((id) => ({ id, text: id }))}
            />
            {date.all.length > 0 && (
              <Pick
                label="Column with the date"
                value={date.heading}
                onChange={(heading) => setDate({ ...date, heading })}
                options={[
                  ...date.all.map((id) => ({ id, text: id })),
                  { id: "none", text: "the time has its own date" },
                ]}
              />
            )}
            {file.found.asks_day_order && (
              <Pick
                label="In its dates"
                value={dayFirst}
                onChange={setDayFirst}
                options={[
                  { id: "day", text: "the day comes first" },
                  { id: "month", text: "the month comes first" },
                ]}
              />
            )}
            <Field
              label="Hours ahead of UTC"
              value={offset}
              onChange={setOffset}
              inputMode="decimal"
              hint="for stamps without an offset"
            />
          </Grid>
          {columns.map((c, i) => (
            <Column key={c.heading}>
              <Grid>
                <p>
                  <strong>{c.heading}</strong>
                  <br />
                  first value {c.example || "empty"}
                </p>
                <Pick
                  label="Is"
                  value={c.quantity}
                  onChange={(quantity) =>
                    setColumns(
                      columns.map((x, k) =>
                        k === i
                          ? {
                              ...x,
                              quantity,
                              unit:
                                quantity === "temperature" ? "degF" : x.unit,
                            }
                          : x,
                      ),
                    )
                  }
                  options={QUANTITIES}
                />
                {c.quantity !== "skip" && (
                  <Pick
                    label="In"
                    value={c.unit}
                    onChange={(unit) =>
                      setColumns(
                        columns.map((x, k) => (k === i ? { ...x, unit } : x)),
                      )
                    }
                    options={unitsFor(c.quantity)}
                  />
                )}
              </Grid>
            </Column>
          ))}
          <span>
            <Primary onPress={send} isDisabled={csv.isPending}>
              Take these columns
            </Primary>
          </span>
        </>
      )}
    </Box>
  );
}
