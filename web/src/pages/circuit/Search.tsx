import { figure } from "../../units/typed";
import { Camera } from "lucide-react";
import { useState } from "react";
import { FileTrigger } from "react-aria-components";
import styled from "styled-components";
import type { Schemas } from "../../api/client";
import { sendPhoto, useWrite, writes } from "../../api/queries";
import {
  Button,
  Field,
  Grid,
  Note,
  Pick,
  Primary,
  Quiet,
} from "../../look/parts";
import { atClock, notANumber, timeOf, useUnits } from "../../units/units";
import { useSwitch } from "../../units/switch";
import { Deadly } from "./Cautions";
import { Choice } from "./finish/parts";
import { TORQUES, TypedField } from "./survey/rows";
import { StrikeOut } from "./StrikeOut";
import { here } from "../../api/room";

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
const Form = styled.form`
  display: grid;
  gap: 10px;
  padding: 6px 0 14px;
`;
const Row = styled.div`
  display: flex;
  gap: 8px;
  align-items: center;
  flex-wrap: wrap;
`;

const NO_YES = [
  { id: "no", text: "no" },
  { id: "yes", text: "yes" },
];
const FINDINGS: [Schemas["LookResult"], string][] = [
  ["clear", "Nothing found"],
  ["suspect", "Suspect"],
  ["leak", "Leak"],
];
const CAUSES = [
  "worn core",
  "core not seated",
  "flare not tight",
  "split flare",
  "pinhole in a joint",
  "rubbed through",
  "seal or cap",
  "part faulty",
  "my own hose or tool",
];

/** How a place was looked at and what was found: method, dwell, then one press on the finding logs it. */
function LookForm({
  circuit,
  place,
  onDone,
}: {
  circuit: string;
  place: string;
  onDone: () => void;
}) {
  const units = useUnits();
  const { meta } = units;
  const [method, setMethod] = useState<Schemas["Method"]>("bubbles");
  const [dwell, setDwell] = useState("");
  const [at, setAt] = useState({ pressure: "", when: "" });
  useSwitch("pressure", ({ value }) =>
    setAt((a) => ({ ...a, pressure: value(a.pressure) })),
  );
  const [note, setNote] = useState("");
  const [photo, setPhoto] = useState<string | null>(null);
  const [problem, setProblem] = useState<string | null>(null);
  const save = useWrite(writes.look(circuit));
  const send = useWrite((f: File) => sendPhoto(circuit, f));
  const chosen = meta.methods.find((m) => m.code === method);
  const log = (finding: Schemas["LookResult"]) => {
    const bad =
      notANumber([
        ["Looked for", dwell],
        ["Under", at.pressure],
      ]) ?? badTime(at.when);
    setProblem(bad);
    const at_pa = at.pressure.trim()
      ? units.si("pressure", figure(at.pressure))
      : null;
    if (!bad)
      save.mutate(
        {
          place,
          method,
          finding,
          dwell_s: dwell.trim() ? figure(dwell) * 60 : null,
          at_pa,
          note,
          photo_id: photo,
          at_ms: timeOf(at.when),
        },
        { onSuccess: onDone },
      );
  };
  return (
    <Form onSubmit={(e) => e.preventDefault()} aria-label={`Look at ${place}`}>
      <Grid $min={170}>
        <Pick
          label="How"
          value={method}
          onChange={setMethod}
          options={meta.methods.map((m) => ({ id: m.code, text: m.title }))}
          hint={chosen?.hint}
        />
        <Field
          label="Looked for, min"
          value={dwell}
          onChange={setDwell}
          inputMode="decimal"
          hint={
            chosen && chosen.least_s >= 60
              ? `${chosen.least_s / 60} min and more for a small leak`
              : undefined
          }
        />
        <Field
          label={`Under, ${units.label("pressure")}`}
          value={at.pressure}
          onChange={(pressure) => setAt({ ...at, pressure })}
          inputMode="decimal"
          hint="empty: what a running test shows"
        />
        <When value={at.when} onChange={(when) => setAt({ ...at, when })} />
        <Field label="Note" value={note} onChange={setNote} />
      </Grid>
      <Row role="group" aria-label="What was found">
        {FINDINGS.map(([code, text]) => (
          <Button
            key={code}
            isDisabled={save.isPending}
            onPress={() => log(code)}
          >
            {text}
          </Button>
        ))}
        <FileTrigger
          acceptedFileTypes={["image/jpeg", "image/png", "image/webp"]}
          defaultCamera="environment"
          onSelect={(files) => {
            const f = files?.[0];
            if (f) send.mutate(f, { onSuccess: setPhoto });
          }}
        >
          <Quiet>
            <Camera size={19} aria-hidden />
            {photo ? "Photo kept" : "Photo"}
          </Quiet>
        </FileTrigger>
        <Quiet onPress={onDone}>Cancel</Quiet>
      </Row>
      {(problem ?? save.error ?? send.error) && (
        <Note $kind="wrong" role="alert">
          {problem ?? (save.error ?? send.error)?.message}
        </Note>
      )}
    </Form>
  );
}

const badTime = (text: string) =>
  text.trim() && timeOf(text) === null ? "Write the time as 14:05." : null;

/** For what is written down afterwards: evidence counts by when it happened. */
function When({
  value,
  onChange,
}: {
  value: string;
  onChange: (text: string) => void;
}) {
  return (
    <Field
      label="At, if not now"
      value={value}
      onChange={onChange}
      placeholder="14:05"
    />
  );
}

function RepairForm({
  circuit,
  place,
  onDone,
}: {
  circuit: Schemas["CircuitView"];
  place: string;
  onDone: () => void;
}) {
  const [cause, setCause] = useState(CAUSES[0] ?? "");
  const [words, setWords] = useState("");
  const [torque, setTorque] = useState<Schemas["Typed"] | null>(null);
  const [opened, setOpened] = useState<Schemas["RepairOpened"] | "">("");
  const [torch, setTorch] = useState({ used: "no", safe: "no" });
  const [when, setWhen] = useState("");
  const [problem, setProblem] = useState<string | null>(null);
  const save = useWrite(writes.repair(circuit.id));
  const log = () => {
    const bad = notANumber([["Torque", torque?.typed ?? ""]]) ?? badTime(when);
    setProblem(bad);
    if (!bad)
      save.mutate(
        {
          place,
          cause,
          words,
          torque: torque?.typed ? torque : null,
          opened: opened || null,
          with_torch: torch.used === "yes",
          is_safe: torch.safe === "yes",
          at_ms: timeOf(when),
        },
        { onSuccess: onDone },
      );
  };
  return (
    <Form
      onSubmit={(e) => e.preventDefault()}
      aria-label={`Repair of ${place}`}
    >
      {circuit.pressure_left && (
        <Deadly
          words={[
            `${circuit.pressure_left} Both gauges at zero before any nut turns.`,
          ]}
        />
      )}
      {torch.used === "yes" && <Deadly words={[circuit.torch_caution]} />}
      <Grid $min={190}>
        <Pick
          label="Cause"
          value={cause}
          onChange={setCause}
          options={CAUSES.map((id) => ({ id, text: id }))}
        />
        <Field
          label="What was done"
          value={words}
          onChange={setWords}
          placeholder="core replaced, cap with seal"
        />
        {cause.includes("flare") && (
          <TypedField
            label="Tightened to"
            value={torque}
            onChange={setTorque}
            units={TORQUES}
          />
        )}
        <Choice
          of="repairs_opened"
          label="What was opened"
          value={opened}
          onChange={setOpened}
        />
        <Pick
          label="With a torch"
          value={torch.used}
          onChange={(used) => setTorch({ ...torch, used })}
          options={NO_YES}
        />
        {torch.used === "yes" && (
          <Pick
            label="All of that was so"
            value={torch.safe}
            onChange={(safe) => setTorch({ ...torch, safe })}
            options={NO_YES}
          />
        )}
        <When value={when} onChange={setWhen} />
      </Grid>
      <Row>
        <Primary isDisabled={save.isPending} onPress={log}>
          Log the repair
        </Primary>
        <Quiet onPress={onDone}>Cancel</Quiet>
      </Row>
      {(problem ?? save.error) && (
        <Note $kind="wrong" role="alert">
          {problem ?? save.error?.message}
        </Note>
      )}
    </Form>
  );
}

/** Suspect places with their state; what nobody has looked at stays in sight after the first find. */
export function Search({
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
                <Row>
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
                </Row>
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
        <Row>
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
        </Row>
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
