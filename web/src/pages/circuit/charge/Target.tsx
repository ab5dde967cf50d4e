import { FormEnd } from "../../../form/Form";
import { Plus, Trash2 } from "lucide-react";
import { useState } from "react";
import styled from "styled-components";
import { type Schemas } from "../../../api/client";
import { visit, tried } from "../../../api/visit";
import { useBench, useWrite } from "../../../api/queries";
import { Forms, MassField, SlipAsk } from "../../../look/Mass";
import { Button, Field, Grid, Note, Quiet } from "../../../look/parts";
import { Pick } from "../../../look/Pick";
import { useUnits } from "../../../units/units";
import { Closed, Form } from "../plan";
import { TypedField, useLengths } from "../survey/rows";
import { Box, Choice, Huge, again, type Circuit } from "../parts";

type Doc = Schemas["TargetDoc"];
type Tube = Schemas["TubeShare"];
type View = Schemas["TargetView"];

const Parts = styled.dl`
  display: grid;
  grid-template-columns: minmax(0, 1fr) auto;
  gap: 4px 14px;
  dd {
    font-family: var(--mono);
    text-align: right;
  }
`;
const Run = styled.li`
  border-top: 1px solid var(--line);
  padding: 10px 0;
  display: grid;
  gap: 8px;
`;

/** What the maker wants, worked out. */
export function TargetSays({ target }: { target: View }) {
  return (
    <Box as="div">
      {target.stops.map((s) => (
        <Note key={s} $kind="wrong" role="alert">
          {s}
        </Note>
      ))}
      <Huge>{target.total.forms[0]}</Huge>
      <Forms mass={target.total} />
      {target.parts.length > 0 && (
        <Parts>
          {target.parts.map((p) => (
            <div key={p.words} style={{ display: "contents" }}>
              <dt>{p.words}</dt>
              <dd>{p.mass.forms[0]}</dd>
            </div>
          ))}
        </Parts>
      )}
      {target.inside && Math.abs(target.inside.g - target.total.g) > 0.5 && (
        <p>Then {target.inside.words} is inside.</p>
      )}
      <p>
        Within {target.tolerance.words}: {target.tolerance_words}.
      </p>
      {target.remarks.map((r) => (
        <Note key={r}>{r}</Note>
      ))}
    </Box>
  );
}

/** A document with a typed figure at a path like "tubes.0.rate" replaced. */
function replaced(doc: Doc, path: string, value: Schemas["Typed"]): Doc {
  const m = /^tubes\.(\d+)\.rate$/.exec(path);
  if (m)
    return {
      ...doc,
      tubes: (doc.tubes ?? []).map((t, i) =>
        i === Number(m[1]) ? { ...t, rate: value } : t,
      ),
    };
  return { ...doc, [path]: value };
}

function TubeRow({
  tube,
  laid,
  at,
  set,
  remove,
}: {
  tube: Tube;
  /** What the survey has of this size. */
  laid: string;
  at: number;
  set: (part: Partial<Tube>) => void;
  remove: () => void;
}) {
  const { meta } = useUnits();
  const lengths = useLengths();
  const name = (f: string) => `target.tubes.${at}.${f}.typed`;
  const rates = meta.choices.rates.map((r) => ({ id: r.code, text: r.title }));
  return (
    <Run>
      <Grid $min={215}>
        <Pick
          label="Liquid tube"
          value={tube.size ?? ""}
          onChange={(size) => set({ size })}
          options={meta.tubes.map((t) => ({ id: t.code, text: t.title }))}
          name={`target.tubes.${at}.size`}
        />
        <TypedField
          label="Length bought"
          value={tube.bought}
          onChange={(bought) => set({ bought })}
          units={lengths}
          name={name("bought")}
          hint={laid && `${laid} in the survey; typed here it is compared`}
        />
        <TypedField
          label="Left over"
          value={tube.left_over}
          onChange={(left_over) => set({ left_over })}
          units={lengths}
          name={name("left_over")}
        />
        <TypedField
          label="Of it included"
          value={tube.included}
          onChange={(included) => set({ included })}
          units={lengths}
          name={name("included")}
        />
        <TypedField
          label="Maker’s rate"
          value={tube.rate}
          onChange={(rate) => set({ rate })}
          units={rates}
          name={name("rate")}
        />
        <Choice
          of="covers"
          label="It covers"
          value={tube.covers ?? "liquid_tube"}
          onChange={(covers) => set({ covers })}
        />
        <Field
          label="Where it stands"
          value={tube.source ?? ""}
          onChange={(source) => set({ source })}
          placeholder="manual, page"
        />
      </Grid>
      <span>
        <Quiet onPress={remove} aria-label={`Remove tube ${at + 1}`}>
          <Trash2 size={18} aria-hidden /> Remove
        </Quiet>
      </span>
    </Run>
  );
}

/** The plate, read twice: the second time without sight of the first. */
function Plate({
  doc,
  set,
  hint,
}: {
  doc: Doc;
  set: (part: Partial<Doc>) => void;
  hint: string;
}) {
  const [isSecond, setSecond] = useState(doc.plate_again != null);
  const [hides, setHides] = useState(false);
  return (
    <>
      <Grid $min={230}>
        {hides ? (
          <p>
            The first reading is put away. Look at the plate once more.{" "}
            <Quiet onPress={() => setHides(false)}>Show it</Quiet>
          </p>
        ) : (
          <MassField
            label="Charge on the plate"
            value={doc.plate}
            onChange={(plate) => set({ plate })}
            name="target.plate"
            hint={hint}
          />
        )}
        {isSecond ? (
          <MassField
            label="The plate once more"
            value={doc.plate_again}
            onChange={(plate_again) => set({ plate_again })}
            name="target.plate_again"
            isBlind={hides}
          />
        ) : (
          <span>
            <Button
              isDisabled={!doc.plate}
              onPress={() => {
                setSecond(true);
                setHides(true);
              }}
            >
              Read it once more
            </Button>
          </span>
        )}
        <Choice
          of="plate_reads"
          label="It was"
          value={doc.plate_read ?? "read_now"}
          onChange={(plate_read) => set({ plate_read })}
        />
      </Grid>
    </>
  );
}

/** The target: what the maker wants inside. */
export function Target({
  circuit,
  isReadOnly,
}: {
  circuit: Circuit;
  isReadOnly: boolean;
}) {
  const kept = circuit.this_visit.target_doc;
  const lengths = useLengths();
  const [draft, setDraft] = useState<Doc | null>(null);
  const [taken, setTaken] = useState<string[]>([]);
  const save = useWrite(visit.target(circuit.id));
  const begin = (): Doc =>
    kept ?? {
      scope: circuit.kind === "new_split" ? "factory_stays" : "all_lost",
      metering: circuit.kind === "new_split" ? "critical" : "valve",
      // The plate and the lengths are those of the survey; typed here they are compared.
      tubes:
        circuit.kind === "new_split"
          ? (circuit.survey.survey.tubes ?? [])
              .slice(0, 1)
              .map((t) => ({ size: t.size }))
          : [],
    };
  const { data, error } = useBench(
    `target ${circuit.id}`,
    draft && { target: draft },
    tried.target(circuit.id),
  );
  if (!draft)
    return (
      <Box>
        <h2>What the maker wants</h2>
        {circuit.this_visit.target ? (
          <TargetSays target={circuit.this_visit.target} />
        ) : (
          <p>Plate, lengths and the maker’s rates make the number to charge.</p>
        )}
        {!isReadOnly && (
          <span>
            <Button onPress={() => setDraft(begin())}>
              {kept ? "Change it" : "Work it out"}
            </Button>
          </span>
        )}
      </Box>
    );
  const set = (part: Partial<Doc>) => setDraft({ ...draft, ...part });
  const tubes = draft.tubes ?? [];
  const others = draft.others ?? [];
  const laid = (size: string) =>
    (circuit.survey.survey.tubes ?? [])
      .filter((t) => t.size === size && t.length)
      .map((t) => `${t.length?.typed} ${t.length?.unit}`)
      .join(" and ");
  const submit = () => {
    save.mutate({ target: draft }, { onSuccess: () => setDraft(null) });
  };
  const shown = !error && data;
  return (
    <Box>
      <h2>What the maker wants</h2>
      <Form onSubmit={submit} save={save}>
        <Grid $min={230}>
          <Choice
            of="scopes"
            label="What goes in"
            value={draft.scope ?? "factory_stays"}
            onChange={(scope) => set({ scope })}
          />
          <Choice
            of="meterings"
            label="It meters with"
            value={draft.metering ?? "critical"}
            onChange={(metering) => set({ metering })}
          />
        </Grid>
        <Plate doc={draft} set={set} hint={again(circuit)} />
        {draft.scope === "part" && (
          <Grid $min={230}>
            <MassField
              label="What goes back"
              value={draft.part}
              onChange={(part) => set({ part })}
              name="target.part"
            />
          </Grid>
        )}
        <ul aria-label="Tubes">
          {tubes.map((t, i) => (
            <TubeRow
              key={i}
              tube={t}
              laid={laid(t.size ?? "")}
              at={i}
              set={(part) =>
                set({
                  tubes: tubes.map((x, j) => (j === i ? { ...x, ...part } : x)),
                })
              }
              remove={() => set({ tubes: tubes.filter((_, j) => j !== i) })}
            />
          ))}
        </ul>
        <span>
          <Button
            onPress={() => set({ tubes: [...tubes, { size: "1/4 in" }] })}
          >
            <Plus size={18} aria-hidden /> A tube
          </Button>
        </span>
        <Closed>
          <summary>More the maker says</summary>
          {others.map((o, i) => (
            <Grid key={i} $min={220}>
              <Field
                label="Also for"
                value={o.what}
                onChange={(what) =>
                  set({
                    others: others.map((x, j) =>
                      j === i ? { ...x, what } : x,
                    ),
                  })
                }
                name={`target.others.${i}.what`}
              />
              <MassField
                label="Adds"
                value={o.mass}
                onChange={(mass) =>
                  set({
                    others: others.map((x, j) =>
                      j === i
                        ? { ...x, mass: mass ?? { typed: "", unit: "g" } }
                        : x,
                    ),
                  })
                }
                first="g"
                name={`target.others.${i}.mass`}
              />
            </Grid>
          ))}
          <span>
            <Button
              onPress={() =>
                set({
                  others: [
                    ...others,
                    { what: "", mass: { typed: "", unit: "g" } },
                  ],
                })
              }
            >
              <Plus size={18} aria-hidden /> Something else
            </Button>
          </span>
          <Grid $min={220}>
            <TypedField
              label="Longest run allowed"
              value={draft.longest}
              onChange={(longest) => set({ longest })}
              units={lengths}
              name="target.longest.typed"
            />
            <Field
              label="The maker’s words, if longer"
              value={draft.longest_words ?? ""}
              onChange={(longest_words) => set({ longest_words })}
            />
            <MassField
              label="The maker’s own tolerance"
              value={draft.tolerance}
              onChange={(tolerance) => set({ tolerance })}
              first="g"
              name="target.tolerance"
            />
            <MassField
              label="Sum as somebody else made it"
              value={draft.total}
              onChange={(total) => set({ total })}
              name="target.total"
              expected={
                data && data.total.g > 0
                  ? { g: data.total.g, speaks: "The sum of the parts" }
                  : null
              }
            />
            {circuit.is_flammable && (
              <MassField
                label="Most charge for this room"
                value={draft.room_limit}
                onChange={(room_limit) => set({ room_limit })}
                name="target.room_limit"
                hint="from the maker’s page"
              />
            )}
            {circuit.is_flammable && (
              <Field
                label="The room, and where the limit stands"
                value={draft.room_source ?? ""}
                onChange={(room_source) => set({ room_source })}
                placeholder="24 m², manual page 12"
              />
            )}
          </Grid>
        </Closed>
        <div aria-live="polite">
          {shown && <TargetSays target={shown} />}
          {shown &&
            shown.slips
              .filter((s) => !taken.includes(s.slip.words))
              .map((s) => (
                <SlipAsk
                  key={s.field + s.slip.words}
                  slip={s.slip}
                  onTake={(t) => {
                    setTaken([...taken, s.slip.words]);
                    setDraft(replaced(draft, s.field, t));
                  }}
                />
              ))}
          {error && <p>{error.message}</p>}
        </div>
        <FormEnd
          others={
            <>
              <Button onPress={() => setDraft(null)}>Discard</Button>
            </>
          }
        >
          Keep this target
        </FormEnd>
      </Form>
    </Box>
  );
}
