import { figure } from "../units/typed";
import { useTitle } from "../look/title";
import { BadgeCheck, CircleHelp } from "lucide-react";
import { useState, type FormEvent } from "react";
import { Refusal, type Schemas } from "../api/client";
import styled from "styled-components";
import { useWrite, writes } from "../api/queries";
import { useMay } from "../api/session";
import { usePreferred } from "../units/procedures";
import { Button, Field, Grid, Mono, Note, Pick, Primary } from "../look/parts";
import { Form, Page, Row } from "../look/page";
import { notANumber, span, trimmed, useUnits } from "../units/units";
import { useSwitch } from "../units/switch";

interface Draft {
  code: string | null;
  title: string;
  kind: Schemas["Kind"];
  pressure: string;
  share: string;
  minutes: string;
  start: string;
  targets: string;
  gives_up: string;
  source: string;
  verified: string;
}
const EMPTY: Draft = {
  code: null,
  title: "",
  kind: "pressure-hold",
  pressure: "",
  share: "",
  minutes: "",
  start: "",
  targets: "",
  gives_up: "",
  source: "",
  verified: "no",
};

const GROUPS = [
  ["pressure-hold", "Pressure holds"],
  ["pull-down", "Evacuations"],
  ["vacuum-decay", "Decay tests"],
] as const;

const Acts = styled.div`
  display: flex;
  flex-wrap: wrap;
  gap: 8px;
`;

/** Procedures by name: the built-in ones stay as they are, one's own have versions. */
export default function Procedures() {
  useTitle("Procedures");
  const mayKeep = useMay("procedures");
  const [mine, setMine] = usePreferred();
  const begin = (kind: string, code: string) =>
    setMine({
      first: {
        ...mine.first,
        [kind]: mine.first[kind] === code ? undefined : code,
      },
      hidden: mine.hidden.filter((h) => h !== code),
    });
  const hide = (code: string) =>
    setMine({
      first: Object.fromEntries(
        Object.entries(mine.first).filter(([, c]) => c !== code),
      ),
      hidden: mine.hidden.includes(code)
        ? mine.hidden.filter((h) => h !== code)
        : [...mine.hidden, code],
    });
  const units = useUnits();
  const [draft, setDraft] = useState<Draft | null>(null);
  useSwitch("pressure", ({ value }) =>
    setDraft((d) =>
      d?.kind === "pressure-hold" ? { ...d, pressure: value(d.pressure) } : d,
    ),
  );
  useSwitch("vacuum", ({ value, list }) =>
    setDraft(
      (d) =>
        d && {
          ...d,
          pressure: d.kind === "pressure-hold" ? d.pressure : value(d.pressure),
          start: value(d.start),
          targets: list(d.targets),
        },
    ),
  );
  const [problem, setProblem] = useState<string | null>(null);
  const save = useWrite(writes.procedure);
  const refusal = save.error instanceof Refusal ? save.error : null;
  const kindOf = (kind: string) =>
    kind === "pressure-hold" ? "pressure" : "vacuum";
  const edit = (p: Schemas["SchoolView"]) =>
    setDraft({
      code: p.is_own ? p.code : null,
      title: p.is_own ? p.title : `${p.title}, mine`,
      kind: p.kind,
      pressure:
        p.pressure_pa == null
          ? ""
          : trimmed(units.of(kindOf(p.kind), p.pressure_pa)),
      share: p.share_of_plate == null ? "" : trimmed(100 * p.share_of_plate),
      minutes: trimmed(p.time_s / 60),
      start:
        p.start_max_pa == null
          ? ""
          : trimmed(units.of("vacuum", p.start_max_pa)),
      targets: p.targets_pa
        .map((t) => trimmed(units.of("vacuum", t)))
        .join(", "),
      gives_up: p.gives_up,
      source: p.is_own ? p.source : "",
      verified: p.is_verified ? "yes" : "no",
    });
  const submit = (e: FormEvent) => {
    e.preventDefault();
    if (!draft) return;
    const list = draft.targets
      .split(",")
      .map((t) => t.trim())
      .filter(Boolean);
    const bad = notANumber([
      ["Pressure", draft.pressure],
      ["Share of the plate", draft.share],
      ["Time", draft.minutes],
      ["Start at most", draft.start],
      ...list.map((t): [string, string] => ["Target", t]),
    ]);
    setProblem(bad);
    if (bad) return;
    const si = (text: string, kind: "pressure" | "vacuum") =>
      text.trim() ? units.si(kind, figure(text)) : null;
    save.mutate(
      {
        code: draft.code,
        title: draft.title,
        kind: draft.kind,
        pressure_pa: si(draft.pressure, kindOf(draft.kind)),
        share_of_plate: draft.share.trim() ? figure(draft.share) / 100 : null,
        time_s: figure(draft.minutes) * 60,
        start_max_pa: si(draft.start, "vacuum"),
        targets_pa: list.map((t) => units.si("vacuum", figure(t))),
        gives_up: draft.gives_up,
        source: draft.source,
        is_verified: draft.verified === "yes",
      },
      { onSuccess: () => setDraft(null) },
    );
  };
  const set = (part: Partial<Draft>) =>
    setDraft({ ...(draft ?? EMPTY), ...part });
  const level = (p: Schemas["SchoolView"]) => {
    const k = kindOf(p.kind);
    if (p.targets_pa.length)
      return `${p.targets_pa.map((t) => trimmed(units.of("vacuum", t))).join(", N₂, ")} ${units.label("vacuum")}`;
    if (p.pressure_pa != null)
      return `${trimmed(units.of(k, p.pressure_pa))} ${units.label(k)}`;
    return p.share_of_plate != null
      ? `${trimmed(100 * p.share_of_plate)} % of the lowest plate`
      : "";
  };
  const isPull = draft?.kind === "pull-down";
  const isHold = draft?.kind !== "vacuum-decay" && !isPull;
  return (
    <Page>
      <h1>Procedures</h1>
      <p>
        Named ways of testing, each with where it comes from. The maker’s
        instruction and the local code go before every one of them; until
        somebody has checked one against those, it is a rule of thumb.
      </p>
      {draft ? (
        <Form refusal={refusal} onSubmit={submit}>
          <h2>{draft.code ? "Next version" : "A procedure of my own"}</h2>
          <Grid $min={190}>
            <Field
              label="Name"
              value={draft.title}
              onChange={(title) => set({ title })}
              name="title"
            />
            <Pick
              label="For"
              value={draft.kind}
              onChange={(kind) => set({ kind })}
              options={[
                { id: "pressure-hold", text: "a pressure hold" },
                { id: "pull-down", text: "an evacuation" },
                { id: "vacuum-decay", text: "a decay test" },
              ]}
            />
            {isPull && (
              <Field
                label={`Targets, ${units.label("vacuum")}`}
                value={draft.targets}
                onChange={(targets) => set({ targets })}
                hint="several: a nitrogen break between"
                name="targets_pa"
              />
            )}
            {!isPull && (
              <Field
                label={
                  isHold
                    ? `Test pressure, ${units.label("pressure")}`
                    : `Limit, ${units.label("vacuum")}`
                }
                value={draft.pressure}
                onChange={(pressure) => set({ pressure })}
                inputMode="decimal"
                name="pressure_pa"
              />
            )}
            {isHold && (
              <Field
                label="or share of the plate, %"
                value={draft.share}
                onChange={(share) => set({ share })}
                inputMode="decimal"
              />
            )}
            {!isHold && !isPull && (
              <Field
                label={`Start at most, ${units.label("vacuum")}`}
                value={draft.start}
                onChange={(start) => set({ start })}
                inputMode="decimal"
              />
            )}
            {!isPull && (
              <Field
                label="Time, min"
                value={draft.minutes}
                onChange={(minutes) => set({ minutes })}
                inputMode="decimal"
                name="time_s"
              />
            )}
            <Field
              label="Comes from"
              value={draft.source}
              onChange={(source) => set({ source })}
              placeholder="maker’s manual, page; code and clause"
              name="source"
            />
            <Field
              label="What it will miss, or costs"
              value={draft.gives_up}
              onChange={(gives_up) => set({ gives_up })}
            />
            <Pick
              label="Checked against it"
              value={draft.verified}
              onChange={(verified) => set({ verified })}
              options={[
                { id: "no", text: "not yet: a rule of thumb" },
                { id: "yes", text: "yes, I have read it there" },
              ]}
            />
          </Grid>
          {(problem ?? refusal) && (
            <Note $kind="wrong" role="alert">
              {problem ?? refusal?.message}
            </Note>
          )}
          <span style={{ display: "flex", gap: 10 }}>
            <Primary type="submit" isDisabled={save.isPending}>
              Keep it
            </Primary>
            <Button onPress={() => setDraft(null)}>Cancel</Button>
          </span>
        </Form>
      ) : (
        mayKeep && (
          <span>
            <Primary onPress={() => setDraft(EMPTY)}>
              A procedure of my own
            </Primary>
          </span>
        )
      )}
      <p>
        What you begin with and what you hide counts on this device; a plan that
        uses a hidden one still names it.
      </p>
      {GROUPS.map(([kind, title]) => (
        <section key={kind}>
          <h2>{title}</h2>
          <ul>
            {units.meta.procedures
              .filter((p) => p.kind === kind)
              .map((p) => (
                <Row key={p.code}>
                  <div>
                    <strong>{p.title}</strong>{" "}
                    <Mono>
                      {level(p)}
                      {p.time_s > 0 ? `, ${span(p.time_s)}` : ""}
                    </Mono>
                    <p>
                      {p.is_verified ? (
                        <BadgeCheck size={17} aria-hidden />
                      ) : (
                        <CircleHelp size={17} aria-hidden />
                      )}{" "}
                      {p.is_verified
                        ? `${p.source}, checked`
                        : `${p.source}: rule of thumb; check the maker’s manual`}
                      {p.is_own && `, version ${p.version}`}
                      {p.gives_up ? `. ${p.gives_up}` : ""}
                    </p>
                  </div>
                  <Acts>
                    <Button
                      aria-pressed={mine.first[kind] === p.code}
                      aria-label={`${mine.first[kind] === p.code ? "Plans begin with it" : "Begin with it"}: ${p.title}`}
                      onPress={() => begin(kind, p.code)}
                    >
                      {mine.first[kind] === p.code
                        ? "Plans begin with it"
                        : "Begin with it"}
                    </Button>
                    <Button
                      aria-label={`${mine.hidden.includes(p.code) ? "Offer it again" : "Hide"}: ${p.title}`}
                      onPress={() => hide(p.code)}
                    >
                      {mine.hidden.includes(p.code) ? "Offer it again" : "Hide"}
                    </Button>
                    {mayKeep && (
                      <Button
                        aria-label={`${p.is_own ? "Change" : "Copy"} ${p.title}`}
                        onPress={() => edit(p)}
                      >
                        {p.is_own ? "Change" : "Copy"}
                      </Button>
                    )}
                  </Acts>
                </Row>
              ))}
          </ul>
        </section>
      ))}
    </Page>
  );
}
