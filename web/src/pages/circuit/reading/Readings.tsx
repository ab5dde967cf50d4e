import { useState } from "react";
import styled from "styled-components";
import type { Schemas } from "../../../api/client";
import { useTable, type Rows } from "../../../api/queries";
import { here } from "../../../api/room";
import { Button, HiddenText, Mono, Note, Quiet } from "../../../look/parts";
import { atSecond } from "../../../units/units";
import { MendRow } from "./MendRow";
import { StrikeOut } from "./StrikeOut";

const Box = styled.details`
  border-top: 1px solid var(--line);
  min-width: 0;
  & > summary {
    cursor: pointer;
    min-height: 48px;
    padding: 12px 0;
    font-weight: 600;
  }
`;
const Kinds = styled.div`
  display: flex;
  flex-wrap: wrap;
  gap: 8px;
  padding-bottom: 8px;
  button[aria-pressed="true"] {
    border-color: var(--accent);
    box-shadow: inset 0 -3px 0 var(--accent);
  }
`;
const Wide = styled.div`
  overflow-x: auto;
`;
const Table = styled.table`
  border-collapse: collapse;
  width: 100%;
  th {
    text-align: left;
    font-weight: 600;
    font-size: var(--t-small);
    color: var(--soft);
  }
  th,
  td {
    padding: 2px 10px 2px 0;
    border-top: 1px solid var(--line);
    height: 48px;
    vertical-align: middle;
  }
  thead th {
    border-top: 0;
    height: 30px;
  }
  td:last-child {
    text-align: right;
    padding-right: 0;
  }
  s {
    color: var(--soft);
  }
  small {
    display: block;
    color: var(--soft);
    font-size: var(--t-tiny);
  }
  tr[data-doubtful] td:first-child {
    box-shadow: inset 4px 0 0 var(--losing);
    padding-left: 10px;
  }
`;
const Events = styled.ul`
  padding-top: 8px;
  li {
    display: flex;
    flex-wrap: wrap;
    gap: 4px 12px;
    align-items: center;
    border-top: 1px solid var(--line);
    min-height: 48px;
  }
  li > :last-child {
    margin-left: auto;
  }
`;

const ORIGIN: Record<string, string> = {
  live: "",
  later: "entered afterwards",
  imported: "imported",
  simulated: "simulated gauge",
  gauge: "sent by the gauge",
  corrected: "correction",
};

/** Where all figures of a row come from, if they come from one place. */
function commonOrigin(row: Schemas["MomentView"]): string | null {
  const all = new Set(row.cells.flatMap((c) => (c ? [c.origin] : [])));
  const [first] = all;
  return all.size === 1 ? (first ?? null) : null;
}

function Cell({
  reading,
  common,
}: {
  reading: Schemas["ReadingView"] | null;
  /** Said once for the row. */
  common: string | null;
}) {
  if (!reading) return <td>–</td>;
  const said = [
    common === null && ORIGIN[reading.origin],
    reading.skewed && "clocks differed by over 5 s",
    reading.struck && `struck out: ${reading.struck}`,
  ].filter(Boolean);
  const typed = <Mono>{reading.typed}</Mono>;
  return (
    <td>
      {reading.struck ? <s>{typed}</s> : typed}
      {said.length > 0 && <small>{said.join(", ")}</small>}
    </td>
  );
}

function Moment({
  row,
  heads,
  canMend,
}: {
  row: Schemas["MomentView"];
  heads: string[];
  canMend: boolean;
}) {
  const [isOpen, setOpen] = useState(false);
  const counts = row.cells.some((c) => c && !c.struck);
  const at = atSecond(row.at_ms);
  const common = commonOrigin(row);
  return (
    <>
      <tr {...(row.is_doubtful && { "data-doubtful": true })}>
        <td>
          <Mono>{at}</Mono>
          {row.is_doubtful && <small>left out: stands apart</small>}
          {common !== null && ORIGIN[common] && <small>{ORIGIN[common]}</small>}
        </td>
        {row.cells.map((c, i) => (
          <Cell key={heads[i]} reading={c ?? null} common={common} />
        ))}
        <td>
          {canMend && counts && (
            <Quiet
              onPress={() => setOpen(!isOpen)}
              aria-expanded={isOpen}
              aria-label={`Mend the row of ${at}`}
            >
              Mend
            </Quiet>
          )}
        </td>
      </tr>
      {isOpen && (
        <tr>
          <td colSpan={heads.length + 2}>
            <MendRow row={row} heads={heads} onDone={() => setOpen(false)} />
          </td>
        </tr>
      )}
    </>
  );
}

/** One page of the table, and a way to the older ones. It stands still: what comes in meanwhile is asked for. */
function Page({
  test,
  rows,
  before,
  canMend,
}: {
  test: string;
  rows: Rows;
  before: number | null;
  canMend: boolean;
}) {
  const { data, error } = useTable(test, rows, before);
  const [isMore, setMore] = useState(false);
  if (error)
    return (
      <Note $kind="wrong" role="alert">
        {error.message}
      </Note>
    );
  if (!data) return <p role="status">One moment …</p>;
  if (!data.rows.length && before === null) return <p>None.</p>;
  const more = data.before_ms ?? null;
  return (
    <>
      <Wide>
        <Table>
          <thead>
            <tr>
              <th scope="col">Read at</th>
              {data.heads.map((h) => (
                <th scope="col" key={h}>
                  {h}
                </th>
              ))}
              <th scope="col">
                <HiddenText>Mend</HiddenText>
              </th>
            </tr>
          </thead>
          <tbody>
            {data.rows.map((r, i) => (
              <Moment
                key={`${r.at_ms} ${i}`}
                row={r}
                heads={data.heads}
                canMend={canMend}
              />
            ))}
          </tbody>
        </Table>
      </Wide>
      {more !== null &&
        (isMore ? (
          <Page test={test} rows={rows} before={more} canMend={canMend} />
        ) : (
          <Button onPress={() => setMore(true)}>Before {atSecond(more)}</Button>
        ))}
    </>
  );
}

const KINDS: [Rows, string][] = [
  ["doubtful", "Stands apart"],
  ["typed", "Typed by hand"],
  ["all", "All"],
  ["struck", "Struck out"],
];

/** All readings of a test, a row a moment, to be put right; what stands apart first. */
function Readable({
  test,
  canMend,
}: {
  test: Schemas["TestView"];
  canMend: boolean;
}) {
  const [asked, setAsked] = useState<Rows | null>(null);
  const [round, setRound] = useState(test.reading_count);
  const rows = asked ?? (test.doubtful > 0 ? "doubtful" : "all");
  const newer = test.reading_count - round;
  return (
    <>
      <Kinds role="group" aria-label="Which readings">
        {KINDS.filter(([k]) => k !== "doubtful" || test.doubtful > 0).map(
          ([k, text]) => (
            <Button
              key={k}
              aria-pressed={k === rows}
              onPress={() => {
                setAsked(k);
                setRound(test.reading_count);
              }}
            >
              {text}
              {k === "doubtful" && ` (${test.doubtful})`}
            </Button>
          ),
        )}
        {newer > 0 && (
          <Button onPress={() => setRound(test.reading_count)}>
            {newer} newer: show
          </Button>
        )}
      </Kinds>
      <Page
        key={`${rows} ${round}`}
        test={test.id}
        rows={rows}
        before={null}
        canMend={canMend}
      />
    </>
  );
}

/** What was logged and what was marked; a wrong entry is struck out, never deleted. */
export function Readings({
  test,
  isOpen,
  setOpen,
}: {
  test: Schemas["TestView"];
  isOpen: boolean;
  setOpen: (open: boolean) => void;
}) {
  if (test.reading_count === 0 && test.events.length === 0) return null;
  return (
    <Box
      id="readings"
      open={isOpen}
      onToggle={(e) => setOpen(e.currentTarget.open)}
    >
      <summary>
        Readings and events ({test.reading_count} and {test.events.length})
      </summary>
      {isOpen && test.reading_count > 0 && (
        <Readable test={test} canMend={!test.is_signed} />
      )}
      <Events aria-label="What was marked">
        {test.events.map((e) => (
          <li key={e.id}>
            <Mono>{atSecond(e.at_ms)}</Mono>
            <strong>{e.kind.replaceAll("_", " ")}</strong>
            <span>
              {e.photo_id ? (
                <a
                  href={here(`/api/photos/${e.photo_id}`)}
                  target="_blank"
                  rel="noreferrer"
                >
                  {e.note}
                </a>
              ) : (
                e.note
              )}
            </span>
            {!test.is_signed && (
              <StrikeOut
                circuit={test.circuit_id}
                entry={e.id}
                what={e.kind.replaceAll("_", " ")}
              />
            )}
          </li>
        ))}
      </Events>
    </Box>
  );
}
