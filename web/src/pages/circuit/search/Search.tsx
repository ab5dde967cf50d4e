import { useState } from "react";
import styled from "styled-components";
import type { Schemas } from "../../../api/client";
import { here } from "../../../api/room";
import { Button, Field, Note, Low } from "../../../look/parts";
import { atClock } from "../../../units/units";
import { LookForm, RepairForm } from "./LookForm";
import { StrikeOut } from "../reading/StrikeOut";

const Box = styled.section`
  display: grid;
  grid-template-columns: minmax(0, 1fr);
  gap: 12px;
`;
const Place = styled.li`
  border-top: 1px solid var(--line);
  padding: 4px 0;
  header {
    display: grid;
    grid-template-columns: minmax(0, 1fr) auto;
    gap: 0 12px;
    align-items: center;
    min-height: 48px;
  }
  header strong {
    font-weight: 620;
    overflow-wrap: anywhere;
  }
  header small {
    color: var(--soft);
    font-size: var(--t-small);
    margin-left: 0.5em;
  }
  ol {
    padding: 0 0 8px 1.1em;
    display: grid;
    gap: 3px;
    font-size: var(--t-note);
  }
  ol li {
    display: flex;
    flex-wrap: wrap;
    gap: 2px 12px;
    align-items: center;
  }
  ol li > button {
    margin-left: auto;
  }
  em {
    color: var(--losing);
    font-style: normal;
  }
  img {
    height: 60px;
    border-radius: 5px;
    border: 1px solid var(--edge);
    display: block;
    margin-top: 4px;
  }
`;
const COLOURS: Partial<Record<Schemas["PlaceState"], string>> = {
  leak: "--falling",
  unconfirmed: "--losing",
  clear: "--holds",
  proven: "--holds",
};
const State = styled.b<{ $state: Schemas["PlaceState"] }>`
  font-weight: 650;
  font-size: var(--t-note);
  color: var(${(p) => COLOURS[p.$state] ?? "--soft"});
`;
/** Suspect places with their state; what nobody has looked at stays in sight after the first find. */
export default function Search({
  circuit,
  isReadOnly,
}: {
  circuit: Schemas["CircuitView"];
  isReadOnly: boolean;
}) {
  const [open, setOpen] = useState<{
    place: string;
    what: "look" | "repair";
  } | null>(null);
  const [own, setOwn] = useState("");
  const s = circuit.search;
  const close = () => setOpen(null);
  return (
    <Box aria-label="Leak search">
      <h2>Leak search</h2>
      {s.retests.map((r) =>
        r.is_met ? (
          <p key={r.section}>{r.words}</p>
        ) : (
          <Note key={r.section}>{r.words}</Note>
        ),
      )}
      <p>
        {s.not_looked === 0
          ? "Every place on the list has been looked at."
          : `${s.not_looked} of ${s.places.length} places not looked at yet. Go on after the first find: there may be a second.`}
      </p>
      <ul>
        {s.places.map((p) => (
          <Place key={p.name}>
            <header>
              <div>
                <strong>{p.name}</strong>
                <small>{p.why}</small>
                <br />
                <State $state={p.state}>{p.state_title}</State>
              </div>
              {!isReadOnly && (
                <Low>
                  <Button
                    aria-label={`Look at ${p.name}`}
                    onPress={() => setOpen({ place: p.name, what: "look" })}
                  >
                    Look
                  </Button>
                  {p.is_open && (
                    <Button
                      aria-label={`Mended: ${p.name}`}
                      onPress={() => setOpen({ place: p.name, what: "repair" })}
                    >
                      Mended
                    </Button>
                  )}
                </Low>
              )}
            </header>
            {p.log.length > 0 && (
              <ol>
                {p.log.map((l) => (
                  <li key={l.id}>
                    <span>
                      {atClock(l.at_ms)} {l.words}
                    </span>
                    {!isReadOnly && (
                      <StrikeOut
                        circuit={circuit.id}
                        entry={l.id}
                        what={`the ${l.kind} at ${p.name}`}
                      />
                    )}
                    {l.remark && <em>{l.remark}</em>}
                    {l.photo_id && (
                      <a
                        href={here(`/api/photos/${l.photo_id}`)}
                        target="_blank"
                        rel="noreferrer"
                      >
                        <img
                          src={here(`/api/photos/${l.photo_id}`)}
                          alt={p.name}
                        />
                      </a>
                    )}
                  </li>
                ))}
              </ol>
            )}
            {open?.place === p.name &&
              (open.what === "look" ? (
                <LookForm circuit={circuit.id} place={p.name} onDone={close} />
              ) : (
                <RepairForm circuit={circuit} place={p.name} onDone={close} />
              ))}
          </Place>
        ))}
      </ul>
      {!isReadOnly && (
        <Low>
          <Field
            label="Another place"
            value={own}
            onChange={setOwn}
            placeholder="where a clamp rubs"
          />
          <Button
            isDisabled={!own.trim()}
            onPress={() => setOpen({ place: own.trim(), what: "look" })}
          >
            Look there
          </Button>
        </Low>
      )}
      {open && !s.places.some((p) => p.name === open.place) && (
        <LookForm
          circuit={circuit.id}
          place={open.place}
          onDone={() => {
            setOwn("");
            close();
          }}
        />
      )}
    </Box>
  );
}
