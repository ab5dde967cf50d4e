import { useTitle } from "../look/title";
import { BadgeCheck, CircleHelp } from "lucide-react";
import { useState } from "react";
import { type Schemas } from "../api/client";
import styled from "styled-components";
import { useWrite, writes } from "../api/queries";
import { useMay } from "../api/session";
import { usePreferred } from "../units/procedures";
import { useEntry } from "../form/entry";
import { FormEnd } from "../form/Form";
import { amount, choice, list, text, value } from "../form/schema";
import { Button, Field, Grid, Mono, Primary } from "../look/parts";
import { Pick } from "../look/Pick";
import { Form, Page, Row } from "../look/page";
import { span, trimmed, useUnits, type Kind } from "../units/units";

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

/** What is asked about a procedure; a field that the server knows has its name. */
const FIELDS = {
  title: text("Name"),
  kind: choice<Schemas["Kind"]>("For", "pressure-hold"),
  targets_pa: list("vacuum", "Targets"),
  pressure_pa: value("pressure", "Test pressure"),
  limit_pa: value("vacuum", "Limit"),
  share: amount("or share of the plate", "%", { times: 0.01 }),
  start_max_pa: value("vacuum", "Start at most"),
  time_s: amount("Time", "min", { times: 60, asks: "Say how long it takes." }),
  source: text("Comes from"),
  gives_up: text("What it will miss, or costs"),
  verified: choice<"no" | "yes">("Checked against it", "no"),
};

/** A procedure of one's own: a new one, the next version, or one that begins with a built-in one. */
function ProcedureForm({
  of,
  onDone,
}: {
  of: Schemas["SchoolView"] | null;
  onDone: () => void;
}) {
  const units = useUnits();
  const show = (kind: Kind, pa: number | null | undefined) =>
    pa == null ? "" : trimmed(units.of(kind, pa)).replace("−", "-");
  const entry = useEntry(
    FIELDS,
    of
      ? {
          title: of.is_own ? of.title : `${of.title}, mine`,
          kind: of.kind,
          ...(of.kind === "pressure-hold"
            ? { pressure_pa: show("pressure", of.pressure_pa) }
            : { limit_pa: show("vacuum", of.pressure_pa) }),
          share:
            of.share_of_plate == null ? "" : trimmed(100 * of.share_of_plate),
          time_s: trimmed(of.time_s / 60),
          start_max_pa: show("vacuum", of.start_max_pa),
          targets_pa: of.targets_pa.map((t) => show("vacuum", t)).join(", "),
          gives_up: of.gives_up,
          source: of.is_own ? of.source : "",
          verified: of.is_verified ? "yes" : "no",
        }
      : {},
  );
  const { field, text: said, si } = entry;
  const save = useWrite(writes.procedure);
  const [isPull, isHold] = [
    said.kind === "pull-down",
    said.kind === "pressure-hold",
  ];
  const code = of?.is_own ? of.code : null;
  const limit = isPull ? null : si.limit_pa;
  const level = isHold ? si.pressure_pa : limit;
  const submit = () =>
    save.mutate(
      {
        code,
        title: said.title,
        kind: said.kind,
        pressure_pa: level,
        share_of_plate: isHold ? si.share : null,
        time_s: si.time_s ?? 0,
        start_max_pa: isHold || isPull ? null : si.start_max_pa,
        targets_pa: isPull ? entry.all("targets_pa") : [],
        gives_up: said.gives_up,
        source: said.source,
        is_verified: said.verified === "yes",
      },
      { onSuccess: onDone },
    );
  return (
    <Form
      save={save}
      entry={entry}
      also={isHold ? {} : { pressure_pa: "limit_pa" }}
      onSubmit={submit}
    >
      <h2>{code ? "Next version" : "A procedure of my own"}</h2>
      <Grid $min={190}>
        <Field {...field("title")} />
        <Pick
          {...field("kind")}
          options={[
            { id: "pressure-hold", text: "a pressure hold" },
            { id: "pull-down", text: "an evacuation" },
            { id: "vacuum-decay", text: "a decay test" },
          ]}
        />
        {isPull && (
          <Field
            {...field("targets_pa")}
            hint="several: a nitrogen break between"
          />
        )}
        {!isPull && <Field {...field(isHold ? "pressure_pa" : "limit_pa")} />}
        {isHold && <Field {...field("share")} />}
        {!isHold && !isPull && <Field {...field("start_max_pa")} />}
        {!isPull && <Field {...field("time_s")} />}
        <Field
          {...field("source")}
          placeholder="maker’s manual, page; code and clause"
        />
        <Field {...field("gives_up")} />
        <Pick
          {...field("verified")}
          options={[
            { id: "no", text: "not yet: a rule of thumb" },
            { id: "yes", text: "yes, I have read it there" },
          ]}
        />
      </Grid>
      <FormEnd others={<Button onPress={onDone}>Cancel</Button>}>
        Keep it
      </FormEnd>
    </Form>
  );
}

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
  /** The one that is being written; null in it: a new one. */
  const [draft, setDraft] = useState<{
    of: Schemas["SchoolView"] | null;
  } | null>(null);
  const kindOf = (kind: string) =>
    kind === "pressure-hold" ? "pressure" : "vacuum";
  const edit = (of: Schemas["SchoolView"]) => setDraft({ of });
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
  return (
    <Page>
      <h1>Procedures</h1>
      <p>
        Named ways of testing, each with where it comes from. The maker’s
        instruction and the local code go before every one of them; until
        somebody has checked one against those, it is a rule of thumb.
      </p>
      {draft ? (
        <ProcedureForm of={draft.of} onDone={() => setDraft(null)} />
      ) : (
        mayKeep && (
          <span>
            <Primary onPress={() => setDraft({ of: null })}>
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
