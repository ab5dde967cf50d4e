import { Link } from "react-router";
import styled from "styled-components";
import { useKit } from "../../../api/queries";
import { Note } from "../../../look/parts";
import { Mark } from "../../../look/verdict";
import { atClock, onDate } from "../../../units/units";

const Row = styled.li`
  border-top: 1px solid var(--line);
  padding: 10px 0;
  display: grid;
  gap: 2px;
  p {
    color: var(--soft);
  }
  a {
    min-height: 48px;
    display: inline-flex;
    align-items: center;
    gap: 0.45em;
  }
  svg {
    vertical-align: -3px;
  }
  .wrong {
    color: var(--falling);
    font-weight: 600;
  }
`;

/** Rigs of the kit with their last checks; the checks themselves are made there, apart from this system. */
export default function RigStage() {
  const { data } = useKit();
  const rigs = (data?.items ?? []).filter(
    (i) => i.doc.kind === "rig" && !i.doc.is_retired,
  );
  return (
    <section>
      <h2>The rig before the system</h2>
      {data && rigs.length === 0 && (
        <Note>
          No rig is in the kit. Put pump and hoses into the{" "}
          <Link to="/kit">kit</Link> and check them once; until then write below
          what they reached.
        </Note>
      )}
      <ul>
        {rigs.map((r) => (
          <Row key={r.id}>
            <strong>{r.doc.name}</strong>
            <p>{r.words}</p>
            {r.tests
              .filter((t) => t.ended_ms != null)
              .slice(-2)
              .map((t) => (
                <p key={t.id}>
                  <Mark shape={t.shape} size={17} /> {t.title}:{" "}
                  {t.word.toLowerCase()}, {t.headline}, {onDate(t.created_ms)}{" "}
                  {atClock(t.created_ms)}
                </p>
              ))}
            {r.warning && <p className="wrong">{r.warning}</p>}
            <span>
              <Link to={`/circuits/${r.id}?stage=rig_check&test=new`}>
                Check {r.doc.name} now
              </Link>
            </span>
          </Row>
        ))}
      </ul>
    </section>
  );
}
