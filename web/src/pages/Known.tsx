import { useState } from "react";
import { Link } from "react-router";
import styled from "styled-components";
import type { Schemas } from "../api/client";
import { useFound } from "../api/queries";
import { Button, Field, Tag } from "../look/parts";
import { onDate, useUnits } from "../units/units";
import { ComeBack } from "./circuit/visit/ComeBack";

const Row = styled.li`
  display: grid;
  grid-template-columns: auto minmax(0, 1fr) auto;
  gap: 6px 14px;
  align-items: center;
  border-top: 1px solid var(--line);
  padding: 8px 0;
  & > :nth-child(4) {
    grid-column: 1 / -1;
  }
  span span {
    display: block;
    color: var(--soft);
    font-size: var(--t-note);
  }
`;
const Part = styled.section`
  border-top: 1px solid var(--line);
  padding-top: 14px;
  display: grid;
  gap: 12px;
`;

function Item({ row }: { row: Schemas["FoundRow"] }) {
  const [isOpen, setOpen] = useState(false);
  return (
    <Row>
      <Tag tag={row.tag} isSmall />
      <span>
        <strong>{row.system}</strong>
        <span>
          {row.site} · {row.name} · {row.refrigerant}
          {row.serial && ` · ${row.serial}`} · {row.state_title ?? "in work"},{" "}
          {onDate(row.at_ms)}
        </span>
      </span>
      {row.state ? (
        <Button
          onPress={() => setOpen(!isOpen)}
          aria-label={`Come back to ${row.system}`}
        >
          Come back
        </Button>
      ) : (
        <Link to={`/circuits/${row.circuit_id}`}>Open it</Link>
      )}
      {isOpen && <ComeBack circuit={row.circuit_id} />}
    </Row>
  );
}

/** Systems that Ruhe knows, before a new one is written down: a visit keeps their history. */
export function Known() {
  const { meta } = useUnits();
  const [q, setQ] = useState("");
  const asked = q.trim().length > 1;
  const { data } = useFound(
    asked ? { q: q.trim(), state: "", from_ms: null, to_ms: null } : null,
  );
  // Where nothing is known yet, there is nothing to look for.
  if (meta.sites.length === 0) return null;
  return (
    <Part aria-label="Known systems">
      <h2>Been here before?</h2>
      <Field
        label="Site, system or serial number"
        value={q}
        onChange={setQ}
        placeholder="bakery, 2203"
        hint="a visit keeps plates, history and doubts"
      />
      {asked && (
        <ul>
          {data?.slice(0, 6).map((r) => (
            <Item key={r.circuit_id} row={r} />
          ))}
        </ul>
      )}
      {asked && data?.length === 0 && <p>Nothing like that is known yet.</p>}
    </Part>
  );
}
