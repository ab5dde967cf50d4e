import styled from "styled-components";
import type { Schemas } from "../api/client";
import { Drawn } from "../look/Drawing";
import { onDate } from "../units/units";
import { AfterList } from "./circuit/signoff/After";
import { Sets } from "./circuit/startup/StartUp";
import { here } from "../api/room";

const Part = styled.section`
  border-top: 1px solid var(--line);
  padding-top: 10px;
  display: grid;
  gap: 6px;
`;

/** What a signature carries besides its state. */
export function Carries({
  signature: s,
}: {
  signature: Schemas["SignatureView"];
}) {
  const c = s.carries.carried;
  const said = [
    ["Done for now", c.done_for_now],
    ["Outstanding", c.outstanding],
    ["For", c.outstanding_for],
    ["By", c.outstanding_by],
    ["Wrong", c.wrong],
    ["Left", c.left_in],
    ["Loss", s.state === "not_proven" ? c.loss : ""],
    ["Come back", c.revisit_on],
    ["Told", c.told],
  ].filter(([, text]) => text);
  return (
    <>
      {said.length > 0 && (
        <p>{said.map(([name, text]) => `${name}: ${text}`).join(". ")}.</p>
      )}
      {s.carries.reservations.map((r) => (
        <p key={r.what}>
          Reserved: {r.what}. Why: {r.why}. Risk: {r.whose}.
        </p>
      ))}
      <Drawn path={s.carries.drawing} name={s.name} />
    </>
  );
}

/** What was done in the visit beside its tests, on the record. */
export function RecordVisit({
  circuit: c,
}: {
  circuit: Schemas["CircuitView"];
}) {
  const f = c.this_visit;
  const found = [
    f.arrival_doc?.complaint,
    f.arrival?.standing,
    ...(f.arrival?.words ?? []),
  ].filter(Boolean);
  return (
    <>
      {found.length > 0 && (
        <Part>
          <h2>As it was found</h2>
          {found.map((w) => (
            <p key={w}>{w}</p>
          ))}
        </Part>
      )}
      {(f.target ?? (f.ledger.rows.length > 0 || null)) && (
        <Part>
          <h2>Charge</h2>
          {f.target?.parts.map((p) => (
            <p key={p.words}>
              {p.words}: {p.mass.words}
            </p>
          ))}
          <ul>
            {f.ledger.rows.map((r) => (
              <li key={r.id}>
                {r.kind_title}, {r.row.refrigerant}, cylinder{" "}
                {r.row.cylinder || "not named"}: {r.net?.words ?? "not known"}
                {r.row.is_weighed ? "" : ", not weighed"}
              </li>
            ))}
          </ul>
          {f.ledger.words && <p>{f.ledger.words}.</p>}
        </Part>
      )}
      {f.start.sets.length > 0 && (
        <Part>
          <h2>Start-up</h2>
          {f.start.words && <p>{f.start.words}</p>}
          <Sets sets={f.start.sets} />
        </Part>
      )}
      {f.consents.length > 0 && (
        <Part>
          <h2>Consent</h2>
          {f.consents.map((x) => (
            <div key={x.id}>
              <p>
                {x.question} {x.options} Risk: {x.risk} Answer: {x.answer}{" "}
                {x.name}
                {x.said_by && ` (as said by ${x.said_by})`}
                {x.drawing ? "" : ", by telephone"}.
              </p>
              <Drawn path={x.drawing} name={x.name} />
            </div>
          ))}
        </Part>
      )}
      {f.after.length > 0 && (
        <Part>
          <h2>After the signature</h2>
          <AfterList circuit={c} />
        </Part>
      )}
      {c.visits.length > 1 && (
        <Part>
          <h2>Visits</h2>
          <ul>
            {c.visits.map((v) => (
              <li key={v.number}>
                <a href={here(`/circuits/${c.id}/record?visit=${v.number}`)}>
                  {v.number}. {onDate(v.from_ms)}
                </a>
                : {v.reason}. {v.state_title}. {v.words.join("; ")} {v.next}
              </li>
            ))}
          </ul>
          {c.doubts.map((d) => (
            <p key={d}>{d}</p>
          ))}
        </Part>
      )}
    </>
  );
}
