import { useState } from "react";
import { Refusal, type Schemas } from "../../../api/client";
import { visit, tried } from "../../../api/visit";
import { useBench, useWrite } from "../../../api/queries";
import {
  Button,
  Field,
  Grid,
  Note,
  Primary,
  Row,
  Together,
} from "../../../look/parts";
import { Forms, MassField } from "../../../look/Mass";
import { Closed, Form } from "../plan";
import { TypedField } from "../survey/rows";
import {
  Box,
  Choice,
  Huge,
  Pressure,
  Temperature,
  again,
  type Circuit,
} from "../parts";

type Doc = Schemas["ArrivalDoc"];
type Recovered = Schemas["RecoveredDoc"];

const WATER = [
  { id: "L", text: "L" },
  { id: "kg", text: "kg" },
  { id: "lb", text: "lb" },
];

/** What was found, in words. */
function Found({ found }: { found: Schemas["ArrivalView"] }) {
  return (
    <Box as="div">
      {found.stops.map((s) => (
        <Note key={s} $kind="wrong" role="alert">
          {s}
        </Note>
      ))}
      {found.standing && <Note>{found.standing}</Note>}
      {found.missing && found.missing.g > 0.5 && (
        <>
          <p>Missing of the charge</p>
          <Huge>{found.missing.forms[0]}</Huge>
          <Forms mass={found.missing} />
        </>
      )}
      {found.words.map((w) => (
        <p key={w}>{w}</p>
      ))}
      {found.limit && <p>The cylinder may weigh {found.limit.words}.</p>}
    </Box>
  );
}

/** How a system that had a charge was found, and what was recovered from it. */
export function Arrive({
  circuit,
  isReadOnly,
}: {
  circuit: Circuit;
  isReadOnly: boolean;
}) {
  const kept = circuit.this_visit.arrival_doc;
  const [draft, setDraft] = useState<Doc | null>(null);
  const doc: Doc = draft ?? kept ?? {};
  const set = (part: Partial<Doc>) => setDraft({ ...doc, ...part });
  const rec: Recovered = doc.recovered ?? {};
  const recover = (part: Partial<Recovered>) =>
    set({
      recovered: { refrigerant: circuit.refrigerant, ...rec, ...part },
    });
  const save = useWrite(visit.arrival(circuit.id));
  const { data, error } = useBench(
    `arrival ${circuit.id}`,
    draft && { arrival: draft },
    tried.arrival(circuit.id),
  );
  const found = draft ? data : circuit.this_visit.arrival;
  const submit = () => {
    save.mutate({ arrival: doc }, { onSuccess: () => setDraft(null) });
  };
  return (
    <Box>
      <h2>Arrival and recovery</h2>
      <div aria-live="polite">{found && <Found found={found} />}</div>
      <Together disabled={isReadOnly}>
        <Form onSubmit={submit} save={save}>
          <Field
            label="Complaint"
            value={doc.complaint ?? ""}
            onChange={(complaint) => set({ complaint })}
            placeholder="what the customer says, and since when"
          />
          <Grid $min={220}>
            <Pressure
              label="Pressure at rest"
              value={doc.standing}
              onChange={(standing) => set({ standing })}
              name="arrival.standing"
            />
            <Temperature
              label="Coldest place then"
              value={doc.coldest}
              onChange={(coldest) => set({ coldest })}
              name="arrival.coldest"
              hint="where liquid would lie"
            />
            <MassField
              label="Charge on the plate"
              value={doc.plate}
              onChange={(plate) => set({ plate })}
              name="arrival.plate"
              hint={again(circuit)}
            />
            <Field
              label="Last known to be full"
              type="date"
              value={doc.last_full ?? ""}
              onChange={(last_full) => set({ last_full })}
              name="arrival.last_full"
              hint="the day of the last full charge"
            />
          </Grid>
          <Field
            label="Before this"
            value={doc.before ?? ""}
            onChange={(before) => set({ before })}
            placeholder="earlier visits, what was topped up"
          />
          <Closed open={doc.recovered != null || undefined}>
            <summary>Recovered into a cylinder</summary>
            <Grid $min={220}>
              <Field
                label="Cylinder"
                value={rec.cylinder ?? ""}
                onChange={(cylinder) => recover({ cylinder })}
                placeholder="its number"
              />
              <Field
                label="Refrigerant on its label"
                value={rec.refrigerant ?? circuit.refrigerant}
                onChange={(refrigerant) => recover({ refrigerant })}
              />
              <TypedField
                label="Water capacity"
                value={rec.water}
                onChange={(water) => recover({ water })}
                units={WATER}
                name="arrival.recovered.water.typed"
                hint="WC on its collar"
              />
              <MassField
                label="Tare"
                value={rec.tare}
                onChange={(tare) => recover({ tare })}
                name="arrival.recovered.tare"
              />
              <MassField
                label="Weight before"
                value={rec.before}
                onChange={(before) => recover({ before })}
                name="arrival.recovered.before"
              />
              <MassField
                label="Weight after"
                value={rec.after}
                onChange={(after) => recover({ after })}
                name="arrival.recovered.after"
              />
              <Pressure
                label="Left in the system"
                value={rec.left}
                onChange={(left) => recover({ left })}
                name="arrival.recovered.left"
              />
              <Field
                label="In test until"
                type="date"
                value={rec.tested_until ?? ""}
                onChange={(tested_until) => recover({ tested_until })}
                name="arrival.recovered.tested_until"
              />
              <Choice
                of="purities"
                label="What is in it"
                value={rec.purity ?? "unknown"}
                onChange={(purity) => recover({ purity })}
              />
            </Grid>
          </Closed>
          {(doc.all_the_same ||
            (error instanceof Refusal &&
              error.field === "arrival.all_the_same")) && (
            <Field
              label="Why it is done all the same; a lead answers for it"
              value={doc.all_the_same ?? ""}
              onChange={(all_the_same) => set({ all_the_same })}
              name="arrival.all_the_same"
            />
          )}
          {draft && error && (
            <Note $kind="wrong" role="alert">
              {error.message}
            </Note>
          )}
          {draft && (
            <Row>
              <Primary type="submit" isDisabled={save.isPending}>
                Keep what was found
              </Primary>
              <Button onPress={() => setDraft(null)}>Discard</Button>
            </Row>
          )}
        </Form>
      </Together>
    </Box>
  );
}
