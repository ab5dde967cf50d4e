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
  const [file, setFile] = useState<{ name: string; content: string } | null>(
    null,
  );
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
    const content = await f.text();
    guess.mutate(
      { file: f.name, content },
      {
        onSuccess: (found) => {
          setFile({ name: f.name, content });
          setTime(
            found.find((c) => c.is_time)?.heading ?? found[0]?.heading ?? "",
          );
          const dates = found.filter((c) => c.is_date).map((c) => c.heading);
          setDate({ heading: dates[0] ?? "none", all: dates });
          setColumns(
            found
              .filter((c) => !c.is_time && !c.is_date)
              .map((c) => ({
                heading: c.heading,
                example: c.example,
                quantity: c.quantity ?? "skip",
                unit: c.unit ?? "psig",
              })),
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
      columns: taken.map((c) => ({
        heading: c.heading,
        channel: { name: c.heading, quantity: c.quantity, unit: c.unit },
      })),
    };
    csv.mutate(body, { onSuccess: (made) => onMade(made.id) });
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
        acceptedFileTypes={[".zip", ".csv", "text/csv", "application/zip"]}
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
            These are guesses; please confirm them. What is wrong here is wrong
            in the verdict.
          </p>
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
