import { Table2 } from "lucide-react";
import { useState } from "react";
import { Link } from "react-router";
import styled from "styled-components";
import type { Schemas } from "../../api/client";
import { useFound, useSentences } from "../../api/queries";
import { drill, here } from "../../api/room";
import { Field, Tag } from "../../look/parts";
import { Pick } from "../../look/Pick";
import { onDate, useUnits } from "../../units/units";

const Box = styled.section`
  margin-top: 28px;
  border-top: 2px solid var(--ink);
  padding-top: 12px;
  h2 {
    margin: 0 8px 8px;
  }
  p {
    margin: 8px;
    color: var(--soft);
  }
`;
const Fields = styled.div`
  display: grid;
  grid-template-columns: minmax(0, 2fr) repeat(3, minmax(0, 1fr));
  gap: 10px 14px;
  padding: 0 8px 12px;
  @media (max-width: 700px) {
    grid-template-columns: minmax(0, 1fr) minmax(0, 1fr);
    & > :first-child {
      grid-column: 1 / -1;
    }
  }
`;
const Row = styled(Link)`
  display: grid;
  grid-template-columns: auto minmax(0, 2fr) minmax(0, 1fr) auto;
  gap: 4px 18px;
  align-items: center;
  min-height: 56px;
  padding: 8px;
  border-top: 1px solid var(--line);
  color: inherit;
  text-decoration: none;
  &:hover {
    background: var(--wash);
  }
  span span {
    color: var(--soft);
    font-size: var(--t-note);
  }
  strong {
    display: block;
    font-weight: 650;
  }
  @media (max-width: 700px) {
    grid-template-columns: auto minmax(0, 1fr);
    & > :nth-child(n + 3) {
      grid-column: 2;
    }
  }
`;

const Download = styled.a`
  display: inline-flex;
  gap: 0.4em;
  align-items: center;
  min-height: 48px;
`;

const ANY = "any";
/** A day as typed by people and by date fields, as the moment it begins here. */
const dayOf = (text: string) =>
  /^\d{4}-\d\d-\d\d$/.test(text.trim())
    ? new Date(`${text.trim()}T00:00`).getTime()
    : null;
const DAY = 86_400_000;

function FoundItem({ row }: { row: Schemas["FoundRow"] }) {
  return (
    <li>
      <Row to={`/circuits/${row.circuit_id}${row.state ? "/record" : ""}`}>
        <Tag tag={row.tag} isSmall />
        <span>
          <strong>{row.system}</strong>
          <span>
            {row.site} · {row.name} · {row.refrigerant}
            {row.serial && ` · ${row.serial}`}
          </span>
        </span>
        <span>{row.state_title ?? `In work: ${row.stage}`}</span>
        <span>{onDate(row.at_ms)}</span>
      </Row>
    </li>
  );
}

/** All work, signed or not: signed work leaves the list above and is found here. */
export default function Find() {
  const { meta } = useUnits();
  const sentences = useSentences();
  const [q, setQ] = useState("");
  const [state, setState] = useState(ANY);
  const [from, setFrom] = useState("");
  const [to, setTo] = useState("");
  const until = dayOf(to);
  const wanted = {
    q: q.trim(),
    state: state === ANY ? "" : state,
    from_ms: dayOf(from),
    to_ms: until === null ? null : until + DAY,
  };
  const today = new Date().toLocaleDateString("sv-SE");
  const season = new URLSearchParams({
    from: from.trim(),
    to: until === null ? today : to.trim(),
    zone: Intl.DateTimeFormat().resolvedOptions().timeZone,
    ...sentences,
  });
  const isAsked = Boolean(
    wanted.q || wanted.state || wanted.from_ms !== null || until !== null,
  );
  const { data, error } = useFound(isAsked ? wanted : null);
  return (
    <Box aria-label="Find work">
      <h2>Find work</h2>
      <Fields role="search">
        <Field
          label="Site, system, serial number, refrigerant …"
          value={q}
          onChange={setQ}
          placeholder="bakery R-134a"
        />
        <Pick
          label="Signed as"
          value={state}
          onChange={setState}
          options={[
            { id: ANY, text: "anything" },
            ...meta.states.map((s) => ({ id: s.code, text: s.title })),
          ]}
        />
        <Field
          label="From"
          value={from}
          onChange={setFrom}
          placeholder="2026-11-01"
        />
        <Field
          label="To"
          value={to}
          onChange={setTo}
          placeholder="2026-11-30"
        />
      </Fields>
      {wanted.from_ms !== null && !drill && (
        <p>
          <Download
            href={here(`/api/season.zip?${season.toString()}`)}
            download
          >
            <Table2 size={18} aria-hidden /> Visits and tests of these days, as
            tables
          </Download>
        </p>
      )}
      {error && <p role="alert">{error.message}</p>}
      {!isAsked && <p>Signed work is found here, and what is still in work.</p>}
      {isAsked && data?.length === 0 && <p>Nothing like that.</p>}
      <ul>
        {isAsked && data?.map((r) => <FoundItem key={r.circuit_id} row={r} />)}
      </ul>
    </Box>
  );
}
