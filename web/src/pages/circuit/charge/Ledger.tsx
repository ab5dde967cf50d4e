import { Said } from "../../../form/Form";
import { useState } from "react";
import styled from "styled-components";
import { type Schemas } from "../../../api/client";
import { visit } from "../../../api/visit";
import { useWrite } from "../../../api/queries";
import { Forms, MassField } from "../../../look/Mass";
import { PhotoButton } from "../../../look/PhotoButton";
import { Field, Grid, Note, Primary } from "../../../look/parts";
import { Pick } from "../../../look/Pick";
import { atClock } from "../../../units/units";
import { Form } from "../plan";
import { StrikeOut } from "../reading/StrikeOut";
import { Box, Choice, Rows, type Circuit } from "../parts";
import { here } from "../../../api/room";

type Row = Schemas["RowDoc"];

const PhotoLine = styled.div`
  display: flex;
  flex-wrap: wrap;
  gap: 8px;
`;
const Line = styled.li`
  display: grid;
  grid-template-columns: 3.6em minmax(0, 1fr) auto;
  gap: 2px 12px;
  align-items: baseline;
  b {
    font-family: var(--mono);
    text-align: right;
  }
  small {
    color: var(--soft);
    font-size: var(--t-note);
  }
`;

/** A mass as it was typed, with its unit once. */
const typed = (t: Schemas["Typed"] | null | undefined) =>
  t && (/[a-z]/i.test(t.typed) ? t.typed : `${t.typed} ${t.unit}`);

/** What went in and out, row by row, and what it makes. */
export function Ledger({
  circuit,
  isReadOnly,
}: {
  circuit: Circuit;
  isReadOnly: boolean;
}) {
  const ledger = circuit.this_visit.ledger;
  const first = (): Row => ({
    kind: "liquid",
    refrigerant: "",
    is_weighed: true,
    cylinder: ledger.rows.at(-1)?.row.cylinder ?? "",
  });
  const [row, setRow] = useState<Row>(first);
  const set = (part: Partial<Row>) => setRow({ ...row, ...part });
  const save = useWrite(visit.row(circuit.id));
  const submit = () => {
    save.mutate({ row }, { onSuccess: () => setRow(first()) });
  };
  const unit = row.start?.unit ?? ledger.rows.at(-1)?.row.start?.unit ?? "kg";
  return (
    <Box>
      <h2>Ledger</h2>
      {ledger.words && (
        <Note
          {...(ledger.is_far &&
            ledger.rows.length > 0 && { $kind: "wrong" as const })}
        >
          {ledger.words}.
        </Note>
      )}
      {ledger.to_add && ledger.to_add.g > 0.5 && (
        <div>
          <p>Left to add</p>
          <Forms mass={ledger.to_add} />
        </div>
      )}
      <Rows aria-label="Rows of the ledger">
        {ledger.rows.map((r) => (
          <Line key={r.id}>
            <span>{atClock(r.at_ms)}</span>
            <span>
              {r.kind_title}, {r.row.refrigerant}
              {r.row.cylinder && `, ${r.row.cylinder}`}
            </span>
            <b>{r.net ? r.net.forms[0] : "not known"}</b>
            <span />
            <small>
              {[
                r.row.start && `${typed(r.row.start)} → ${typed(r.row.stop)}`,
                r.row.net && typed(r.row.net),
                r.row.is_weighed ? null : "not weighed",
                r.row.is_running ? "while running" : null,
                r.row.port,
                r.row.note,
              ]
                .filter(Boolean)
                .join(" · ")}
            </small>
            <small>{r.net?.forms[4]}</small>
            {r.row.photo_id && (
              <a
                href={here(`/api/photos/${r.row.photo_id}`)}
                target="_blank"
                rel="noreferrer"
              >
                Photo
              </a>
            )}
            {!isReadOnly && (
              <span style={{ gridColumn: "2 / -1" }}>
                <StrikeOut
                  circuit={circuit.id}
                  entry={r.id}
                  what={`${r.kind_title} ${r.net?.forms[0] ?? ""}`}
                />
              </span>
            )}
          </Line>
        ))}
      </Rows>
      {ledger.cylinders.length > 0 && (
        <p>
          {ledger.cylinders
            .map(
              (c) =>
                `Cylinder ${c.cylinder} (${c.refrigerant}): ${c.out.words} out${c.back.g > 0.5 ? `, ${c.back.words} into it` : ""}`,
            )
            .join("; ")}
          .
        </p>
      )}
      {!isReadOnly && (
        <Form onSubmit={submit} save={save}>
          <Grid $min={215}>
            <Choice
              of="ledger_kinds"
              label="What moved"
              value={row.kind ?? "liquid"}
              onChange={(kind) => set({ kind })}
            />
            <Field
              label="Refrigerant on the cylinder"
              value={row.refrigerant ?? ""}
              onChange={(refrigerant) => set({ refrigerant })}
              name="row.refrigerant"
              placeholder="read it off the label"
            />
            <Field
              label="Cylinder"
              value={row.cylinder ?? ""}
              onChange={(cylinder) => set({ cylinder })}
              placeholder="its number"
            />
            <Pick
              label="It was"
              value={row.is_weighed ? "weighed" : "not"}
              onChange={(v) => set({ is_weighed: v === "weighed" })}
              options={[
                { id: "weighed", text: "weighed" },
                { id: "not", text: "not weighed" },
              ]}
            />
            {row.is_weighed && (
              <>
                <MassField
                  label="Scale before"
                  value={row.start}
                  onChange={(start) => set({ start })}
                  name="row.start"
                  first={unit}
                />
                <MassField
                  label="Scale after"
                  value={row.stop}
                  onChange={(stop) => set({ stop })}
                  name="row.stop"
                  first={unit}
                />
              </>
            )}
            <MassField
              label={row.is_weighed ? "Or what moved" : "Estimate, if any"}
              value={row.net}
              onChange={(net) => set({ net })}
              name="row.net"
              first={unit}
              expected={
                ledger.to_add && ledger.to_add.g > 0
                  ? { g: ledger.to_add.g, speaks: "What is left to add" }
                  : null
              }
            />
            <Pick
              label="The unit"
              value={row.is_running ? "yes" : "no"}
              onChange={(v) => set({ is_running: v === "yes" })}
              options={[
                { id: "no", text: "stood still" },
                { id: "yes", text: "was running" },
              ]}
            />
            <Field
              label="Port"
              value={row.port ?? ""}
              onChange={(port) => set({ port })}
            />
            <Field
              label="Note"
              value={row.note ?? ""}
              onChange={(note) => set({ note })}
              name="row.note"
            />
          </Grid>
          <Said />
          <PhotoLine>
            <PhotoButton
              circuit={circuit.id}
              text={row.photo_id ? "Photo kept" : "Photo of the scale"}
              onMade={(photo_id) => set({ photo_id })}
            />
            <Primary type="submit" isDisabled={save.isPending}>
              Add to the ledger
            </Primary>
          </PhotoLine>
        </Form>
      )}
    </Box>
  );
}
