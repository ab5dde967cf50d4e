import { FileImage, Radio, TriangleAlert } from "lucide-react";
import { useState } from "react";
import { Link } from "react-router";
import { useTitle } from "../../look/title";
import styled from "styled-components";
import { type Schemas } from "../../api/client";
import { named, useGauges } from "../../api/gauges";
import { here } from "../../api/room";
import { useKit, useWrite, writes } from "../../api/queries";
import { useMay } from "../../api/session";
import { LooksOn } from "../../look/LooksOn";
import { Button, Note, Primary, Trouble } from "../../look/parts";
import { Page, Row as Plain } from "../../look/page";
import { Mark } from "../../look/verdict";
import { onDate } from "../../units/units";
import { Gauges } from "./Gauges";
import { KINDS } from "./kinds";
import { KitForm } from "./KitForm";

const Row = styled(Plain)`
  p.wrong {
    color: var(--falling);
    font-weight: 600;
  }
  strong small {
    color: var(--soft);
    font-weight: 450;
    font-size: var(--t-small);
  }
  .tests {
    grid-column: 1 / -1;
    display: flex;
    flex-wrap: wrap;
    gap: 0 16px;
  }
  a {
    min-height: 48px;
    display: inline-flex;
    align-items: center;
    gap: 0.4em;
  }
  .press {
    display: flex;
    gap: 8px;
  }
  @media (max-width: 700px) {
    grid-template-columns: minmax(0, 1fr);
  }
`;
/** How often the names of gauges are asked for, ms. */
const NOW_AND_THEN = 60_000;

/** What is in the van: registered once, picked per job; rigs are checked alone, apart from every system. */
export default function Kit() {
  useTitle("Kit");
  const { data, error } = useKit();
  const mayWork = useMay("work");
  /** The thing that is being written; null in it: a new one. */
  const [draft, setDraft] = useState<{ of: Schemas["KitItem"] | null } | null>(
    null,
  );
  const senders = useGauges(NOW_AND_THEN);
  const retire = useWrite(writes.kit);
  if (error)
    return (
      <Note $kind="wrong" role="alert">
        {error.message}
      </Note>
    );
  const items = (data?.items ?? []).filter((i) => !i.doc.is_retired);
  return (
    <Page>
      <h1>Kit</h1>
      <p>
        Registered once, picked for each test; every record prints what it used.
        A rig is checked alone before a system is judged through it: the pump
        blanked off, then the hoses shut off from the pump.
      </p>
      {data && data.due.length > 0 && (
        <Note
          as="div"
          $kind={data.due.some((d) => d.is_past) ? "wrong" : "calm"}
        >
          <strong>Falls due</strong>
          {data.due.map((d) => (
            <div key={d.id}>{d.words}</div>
          ))}
        </Note>
      )}
      <LooksOn />
      {draft ? (
        <KitForm
          key={draft.of?.id ?? "new"}
          of={draft.of}
          items={items}
          onDone={() => setDraft(null)}
        />
      ) : (
        mayWork && (
          <span>
            <Primary onPress={() => setDraft({ of: null })}>
              Put something in
            </Primary>
          </span>
        )
      )}
      <Trouble of={retire.error} />
      {data && items.length === 0 && (
        <Note>
          Nothing is in the kit yet. Begin with the vacuum gauge, the pump and
          the hoses; then put them together as a rig.
        </Note>
      )}
      {KINDS.map(({ id: kind, text }) => {
        const group = items.filter((i) => i.doc.kind === kind);
        return group.length === 0 ? null : (
          <section key={kind} aria-label={text}>
            <h2>
              {kind === "rig" ? "Rigs" : `${group[0]?.kind_title ?? text}s`}
            </h2>
            <ul>
              {group.map((i) => (
                <Row key={i.id}>
                  <div>
                    <strong>{i.doc.name}</strong>
                    <p>{i.words}</p>
                    {i.doc.sends && (
                      <p>
                        <Radio size={17} aria-hidden /> sends by itself, as{" "}
                        {named(senders, i.doc.sends)}
                      </p>
                    )}
                    {i.doc.certificate_photo != null && (
                      <a
                        href={here(`/api/photos/${i.doc.certificate_photo}`)}
                        target="_blank"
                        rel="noreferrer"
                      >
                        <FileImage size={17} aria-hidden /> Certificate of{" "}
                        {i.doc.name}
                      </a>
                    )}
                    {i.warning && (
                      <p className="wrong">
                        <TriangleAlert size={17} aria-hidden /> {i.warning}
                      </p>
                    )}
                  </div>
                  <div className="press">
                    {kind === "rig" && (
                      <Link to={`/circuits/${i.id}`}>Check it</Link>
                    )}
                    {mayWork && (
                      <>
                        <Button
                          aria-label={`Change ${i.doc.name ?? ""}`}
                          onPress={() => setDraft({ of: i })}
                        >
                          Change
                        </Button>
                        <Button
                          aria-label={`Retire ${i.doc.name ?? ""}`}
                          onPress={() =>
                            retire.mutate({
                              id: i.id,
                              body: { ...i.doc, is_retired: true },
                            })
                          }
                        >
                          Retire
                        </Button>
                      </>
                    )}
                  </div>
                  {i.tests.length > 0 && (
                    <div className="tests">
                      {i.tests.slice(-6).map((t) => (
                        <Link
                          key={t.id}
                          to={`/circuits/${i.id}?stage=rig_check&test=${t.id}`}
                        >
                          <Mark shape={t.shape} size={17} />
                          {t.title}: {t.word}, {t.headline}{" "}
                          <small>{onDate(t.created_ms)}</small>
                        </Link>
                      ))}
                    </div>
                  )}
                </Row>
              ))}
            </ul>
          </section>
        );
      })}
      <Gauges />
    </Page>
  );
}
