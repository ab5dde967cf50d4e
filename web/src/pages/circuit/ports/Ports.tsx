import { Said, FormEnd } from "../../../form/Form";
import { NumberField } from "../../../form/NumberField";
import { Check, CircleAlert, Plus } from "lucide-react";
import { useState } from "react";
import styled from "styled-components";
import { type Schemas } from "../../../api/client";
import { visit } from "../../../api/visit";
import { useWrite } from "../../../api/queries";
import {
  Button,
  Field,
  Grid,
  Note,
  Quiet,
  Together,
} from "../../../look/parts";
import { Pick } from "../../../look/Pick";
import { Form } from "../plan";
import { TORQUES, TypedField } from "../survey/rows";
import { Box, Choice, Rows, type Circuit } from "../parts";

type Doc = Schemas["PortsDoc"];
type Port = Schemas["PortDoc"];

const Line = styled.li`
  display: grid;
  gap: 8px;
  & > p {
    display: flex;
    gap: 0.5em;
    align-items: center;
    flex-wrap: wrap;
  }
  svg {
    flex: none;
  }
`;

/** Ports, brazed joints and the drier: closed, clear, capped. */
export function Ports({
  circuit,
  isReadOnly,
  only,
}: {
  circuit: Circuit;
  isReadOnly: boolean;
  /** Before the vacuum only the cores matter. */
  only?: "cores";
}) {
  const view = circuit.this_visit.ports;
  const [draft, setDraft] = useState<Doc | null>(null);
  const [renamed, setRenamed] = useState<number | null>(null);
  const doc = draft ?? view.ports;
  const save = useWrite(visit.ports(circuit.id));
  const ports = doc.ports ?? [];
  const set = (i: number, part: Partial<Port>) =>
    setDraft({
      ...doc,
      ports: ports.map((p, j) => (j === i ? { ...p, ...part } : p)),
    });
  const joints = doc.joints ?? [];
  // One that is new, or that is called otherwise now.
  const isNamed = (i: number) =>
    (draft && !view.ports.ports?.[i]) || !ports[i]?.name || renamed === i;
  return (
    <Box>
      <h2>{only === "cores" ? "Valve cores" : "Ports, joints, drier"}</h2>
      <Form
        save={save}
        onSubmit={() => {
          save.mutate(
            { ports: doc, version: view.version },
            {
              onSuccess: () => {
                setDraft(null);
                setRenamed(null);
              },
            },
          );
        }}
      >
        <Together disabled={isReadOnly}>
          <Rows>
            {ports.map((p, i) => {
              const missing = draft ? [] : (view.states[i]?.missing ?? []);
              const at = (f: string) => `ports.ports.${i}.${f}`;
              return (
                <Line key={i}>
                  <p>
                    {!draft && missing.length === 0 && view.is_kept ? (
                      <Check size={20} aria-label="closed, clear, capped" />
                    ) : (
                      <CircleAlert size={20} aria-label="open" />
                    )}
                    <strong>{p.name || "A port"}</strong>
                    {only !== "cores" && missing.length > 0 && (
                      <span>{missing.join(", ")}</span>
                    )}
                  </p>
                  <Grid
                    $min={150}
                    role="group"
                    aria-label={p.name || `Port ${i + 1}`}
                  >
                    {isNamed(i) ? (
                      <Field
                        label="Port"
                        value={p.name ?? ""}
                        onChange={(name) => set(i, { name })}
                        name={at("name")}
                      />
                    ) : (
                      only !== "cores" &&
                      !isReadOnly && (
                        <Quiet
                          onPress={() => setRenamed(i)}
                          aria-label={`Rename ${p.name}`}
                        >
                          Rename
                        </Quiet>
                      )
                    )}
                    {!p.side && (
                      <Choice
                        of="port_sides"
                        label="On the"
                        value={p.side ?? ""}
                        onChange={(side) => set(i, { side: side || null })}
                      />
                    )}
                    <Pick
                      label="Core tool on it"
                      value={p.has_tool ? "yes" : "no"}
                      onChange={(v) => set(i, { has_tool: v === "yes" })}
                      options={[
                        { id: "no", text: "no" },
                        { id: "yes", text: "yes" },
                      ]}
                    />
                    <Choice
                      of="cores"
                      label="Core"
                      value={p.core ?? "fitted"}
                      onChange={(core) => set(i, { core })}
                    />
                    {only !== "cores" && (
                      <>
                        <Choice
                          of="refitted"
                          label="Core put back"
                          value={p.refitted ?? "not"}
                          onChange={(refitted) => set(i, { refitted })}
                        />
                        <Choice
                          of="bubbles"
                          label="Fluid on it"
                          value={p.bubbles ?? "not_looked"}
                          onChange={(bubbles) =>
                            set(i, {
                              bubbles,
                              dwell_s:
                                bubbles === "clear"
                                  ? (p.dwell_s ?? null)
                                  : null,
                            })
                          }
                        />
                        {p.bubbles === "clear" && (
                          <NumberField
                            label="Looked at for, s"
                            value={p.dwell_s}
                            onChange={(dwell_s) => set(i, { dwell_s })}
                            name={at("dwell_s")}
                          />
                        )}
                        <Pick
                          label="Cap with its seal"
                          value={p.is_capped ? "yes" : "no"}
                          onChange={(v) => set(i, { is_capped: v === "yes" })}
                          options={[
                            { id: "yes", text: "on" },
                            { id: "no", text: "not on" },
                          ]}
                        />
                        <Choice
                          of="stems"
                          label="Stem"
                          value={p.stem ?? "none"}
                          onChange={(stem) => set(i, { stem })}
                        />
                        <TypedField
                          label="Cap’s torque"
                          value={p.cap_torque}
                          onChange={(cap_torque) => set(i, { cap_torque })}
                          units={TORQUES}
                        />
                      </>
                    )}
                  </Grid>
                </Line>
              );
            })}
          </Rows>
          {only !== "cores" && (
            <>
              {joints.map((j, i) => (
                <Grid key={j.name ?? i} $min={200}>
                  <Choice
                    of="purges"
                    label={`${j.name}: brazed`}
                    value={j.purge ?? "not_said"}
                    onChange={(purge) =>
                      setDraft({
                        ...doc,
                        joints: joints.map((x, k) =>
                          k === i ? { ...x, purge } : x,
                        ),
                      })
                    }
                  />
                  {j.purge === "no" && (
                    <Field
                      label={`${j.name}: why without`}
                      value={j.why ?? ""}
                      onChange={(why) =>
                        setDraft({
                          ...doc,
                          joints: joints.map((x, k) =>
                            k === i ? { ...x, why } : x,
                          ),
                        })
                      }
                      name={`ports.joints.${i}.why`}
                    />
                  )}
                </Grid>
              ))}
              <Grid $min={200}>
                <Choice
                  of="driers"
                  label="Drier"
                  value={doc.drier ?? "not_said"}
                  onChange={(drier) => setDraft({ ...doc, drier })}
                />
                {(doc.drier === "replaced" || doc.drier === "kept") && (
                  <Field
                    label="Arrow, one way or both"
                    value={doc.drier_words ?? ""}
                    onChange={(drier_words) =>
                      setDraft({ ...doc, drier_words })
                    }
                  />
                )}
              </Grid>
            </>
          )}
        </Together>
        {view.deviations.map((d) => (
          <Note key={d}>{d}</Note>
        ))}
        {isReadOnly ? (
          <Said />
        ) : (
          <FormEnd
            isDisabled={!draft}
            others={
              <>
                {draft && (
                  <Button onPress={() => setDraft(null)}>Discard</Button>
                )}
                <Button
                  onPress={() =>
                    setDraft({ ...doc, ports: [...ports, { name: "" }] })
                  }
                >
                  <Plus size={18} aria-hidden /> A port
                </Button>
              </>
            }
          >
            Keep the register
          </FormEnd>
        )}
      </Form>
    </Box>
  );
}
