import { useState } from "react";
import type { Schemas } from "../../api/client";
import { useKit, useWrite, writes } from "../../api/queries";
import { useEntry } from "../../form/entry";
import { FormEnd } from "../../form/Form";
import { amount, choice, delta, list, text, value } from "../../form/schema";
import { Field, Grid, Note, Prompt } from "../../look/parts";
import { Pick } from "../../look/Pick";
import { trimmed, useUnits } from "../../units/units";
import { ConfirmStep, Deadly } from "./Cautions";
import { Import } from "./file/Import";
import { InUse } from "./kit/InUse";
import { KitTicks } from "./kit/KitTicks";
import { Closed, Form, schoolsOf, worth } from "./plan";

const TITLES: Record<string, string> = {
  "vacuum-decay": "Plan a decay test",
  "pull-down": "Plan the evacuation",
  "rig-check": "Check the rig alone",
};
const PLACES = [
  { id: "far", text: "far from the pump" },
  { id: "near_pump", text: "near the pump" },
];
const YES = [
  { id: "no", text: "no" },
  { id: "yes", text: "yes" },
];

const minutes = (label: string) => amount(label, "min", { times: 60 });

/** What is asked; a field that the server knows has its name. */
const FIELDS = {
  school: text("Procedure"),
  targets: list("vacuum", "Targets", {
    asks: "Write down the target, or one for each pull with commas between.",
  }),
  level_pa: value("vacuum", "Limit"),
  at_s: minutes("After"),
  start_max_pa: value("vacuum", "Start at most"),
  evacuated_s: minutes("Vacuum before"),
  source: text("Limit comes from"),
  gauge: text("Vacuum gauge"),
  resolution: delta("vacuum", "Gauge step", { first: "1" }),
  range: value("vacuum", "Gauge range"),
  // Where it sits decides what it shows: that is said, never taken for granted.
  place: choice<Schemas["Position"] | "">(
    "It sits",
    "",
    "Say where the gauge sits.",
  ),
  second: text("Second gauge", { first: "none" }),
  probe: choice<"yes" | "no">("Temperature probe", "no"),
  rig: text("Rig"),
  // Where the register of ports has them; before anybody kept one, it is asked.
  cores: choice<"in" | "out" | "">(
    "Valve cores",
    "",
    "Say whether the valve cores are out: they decide how fast it pumps.",
  ),
  core_tool: choice<"yes" | "no">("Through core tools", "yes"),
  two: choice<"yes" | "no">("Hoses on two ports", "no"),
  part: choice<Schemas["RigPart"]>("What is checked", "hoses"),
  hoses: choice<"out" | "in">("Pump hoses during the test", "out"),
  since: choice<"" | "none" | "yes">("Opened or fitted since the hold", ""),
  opened: text("What, with commas between"),
};

/** Whether valve cores are in the way, as the register of ports has it; empty: nobody kept one. */
function coresOf(circuit: Schemas["CircuitView"]): "in" | "out" | "" {
  const { is_kept, ports } = circuit.this_visit.ports;
  if (!is_kept) return "";
  const isIn = (ports.ports ?? []).some(
    (p) => p.core !== "out" && p.core !== "none",
  );
  return isIn ? "in" : "out";
}

/** Plan of an evacuation, a decay, or a check of the rig. */
export default function NewTest({
  circuit,
  kind,
  onMade,
}: {
  circuit: Schemas["CircuitView"];
  kind: Schemas["Kind"];
  onMade: (id: string) => void;
}) {
  const units = useUnits();
  const kit = useKit().data?.items.filter((i) => !i.doc.is_retired) ?? [];
  const [isDecay, isPull, isRig] = [
    kind === "vacuum-decay",
    kind === "pull-down",
    kind === "rig-check",
  ];
  const { all: schools, first } = schoolsOf(units.meta, kind);
  const show = (pa: number | null | undefined) =>
    pa == null ? "" : trimmed(units.of("vacuum", pa)).replace("−", "-");
  /** What a procedure asks for. */
  const begin = (code: string) => {
    const s = schools.find((x) => x.code === code);
    return {
      level_pa: show(s?.pressure_pa),
      at_s: s ? String(s.time_s / 60) : "",
      start_max_pa: show(s?.start_max_pa),
      targets: (s?.targets_pa ?? []).map(show).join(", "),
    };
  };
  const lasted = isDecay ? (circuit.evacuated_s ?? 0) : 0;
  const known = lasted >= 60 ? lasted : null;
  const entry = useEntry(FIELDS, {
    school: first?.code ?? "own",
    cores: coresOf(circuit),
    evacuated_s: known == null ? "" : String(Math.round(known / 60)),
    ...begin(first?.code ?? ""),
  });
  const { field, text: said, si } = entry;
  const [also, setAlso] = useState<string[]>([]);
  const save = useWrite(
    writes.test(circuit.id, { pressure: units.chosen.pressure }),
  );
  const gauges = kit.filter((i) => i.doc.kind === "vacuum_gauge");
  const rigs = kit.filter((i) => i.doc.kind === "rig");
  const gaugeId = said.gauge || (gauges[0]?.id ?? "hand");
  const rigId = said.rig || (rigs[0]?.id ?? "none");
  const rig = rigs.find((i) => i.id === rigId);
  const withRig = isPull || (isDecay && said.hoses === "in");
  const channelOf = (
    id: string,
    name: string,
    position: Schemas["Position"] | null,
  ): Schemas["ChannelInput"] => {
    const d = gauges.find((i) => i.id === id)?.doc;
    const own = d && {
      unit: d.unit || units.chosen.vacuum,
      resolution: d.resolution ?? null,
      range: d.range ?? null,
      accuracy: d.accuracy ?? null,
      principle: d.principle ?? null,
      calibration_due: d.calibration_due ?? null,
    };
    return {
      name: d?.name ?? name,
      quantity: "absolute_pressure",
      position,
      ...(own ?? {
        unit: units.chosen.vacuum,
        resolution: entry.typed("resolution"),
        range: entry.typed("range"),
      }),
    };
  };
  const planOf = (): Schemas["PlanInput"] => {
    const auto = gauges.find((i) => i.id === gaugeId)?.doc.auto_off_min;
    const opened = said.opened.split(",").map((x) => x.trim());
    const targets = entry.all("targets");
    return {
      school: isRig ? null : said.school,
      source: isRig ? null : said.source.trim() || null,
      kit: [
        ...[gaugeId, said.second].filter((id) =>
          gauges.some((g) => g.id === id),
        ),
        ...also,
      ],
      auto_off_s: auto ? auto * 60 : null,
      hoses_in: isDecay && said.hoses === "in",
      changed:
        isDecay && said.since
          ? opened.filter((x) => x && said.since === "yes")
          : null,
      rig:
        withRig && rigId !== "none"
          ? {
              rig_id: rigId,
              side_by_side: said.two === "yes",
              core_tool: said.core_tool === "yes",
              core_in: said.cores === "in",
              tees: 0,
            }
          : null,
      part: isRig ? said.part : null,
      targets_pa: isPull ? targets : [],
      evacuated_s: si.evacuated_s,
      ...(isDecay && {
        level_pa: si.level_pa,
        at_s: si.at_s ?? 0,
        start_max_pa: si.start_max_pa,
      }),
    };
  };
  const submit = () => {
    const rigPlace = said.part === "pump" ? "near_pump" : "far";
    const channels = [
      channelOf(gaugeId, "Vacuum", isRig ? rigPlace : said.place || null),
    ];
    if (said.second !== "none")
      channels.push(
        channelOf(
          said.second,
          "Second gauge",
          said.place === "far" ? "near_pump" : "far",
        ),
      );
    if (said.probe === "yes")
      channels.push({
        name: "Coldest place",
        quantity: "temperature",
        unit: units.chosen.temperature,
        resolution: units.usualStep(units.chosen.temperature),
        position: "indoor",
      });
    save.mutate(
      { kind, plan: planOf(), channels },
      { onSuccess: (made) => onMade(made.id) },
    );
  };
  const evacuate = circuit.stages.find((s) => s.code === "evacuate");
  const lock = isPull
    ? evacuate?.step_kinds.find((k) => k.code === "compressor_locked_out")
    : undefined;
  const isLocked = evacuate?.steps.some(
    (s) => s.step === "compressor_locked_out",
  );
  const deadly = isPull
    ? (evacuate?.cautions ?? []).filter((c) => c.can_kill).map((c) => c.words)
    : [];
  const gaugeOptions = [
    ...gauges.map((i) => ({ id: i.id, text: i.doc.name ?? "" })),
    { id: "hand", text: "another one" },
  ];
  const rigOptions = [
    ...rigs.map((i) => ({ id: i.id, text: i.doc.name ?? "" })),
    { id: "none", text: "not in the kit" },
  ];
  return (
    <section>
      <Form
        save={save}
        entry={entry}
        also={{
          "targets_pa.0": "targets",
          "targets_pa.1": "targets",
          "targets_pa.2": "targets",
        }}
        onSubmit={submit}
      >
        <h2>{TITLES[kind] ?? "Plan a test"}</h2>
        {isPull && circuit.pressure_left && (
          <Note $kind="wrong" role="alert">
            {circuit.pressure_left} The pump waits until it is.
          </Note>
        )}
        {isPull && lock && !isLocked && (
          <Prompt aria-label="Before the vacuum">
            <Deadly words={deadly} />
            <ConfirmStep
              circuit={circuit.id}
              step={lock}
              yes="Yes, locked out"
            />
          </Prompt>
        )}
        {!isRig && (
          <Pick
            {...field("school")}
            onChange={(school) =>
              entry.set({ school, ...(school !== "own" && begin(school)) })
            }
            options={[
              ...schools.map((s) => ({ id: s.code, text: s.title })),
              { id: "own", text: "The maker’s or my own" },
            ]}
            hint={worth(schools.find((s) => s.code === said.school))}
          />
        )}
        <Grid $min={150}>
          {isRig && (
            <Pick
              {...field("part")}
              options={[
                { id: "pump", text: "the pump, blanked off" },
                {
                  id: "hoses",
                  text: "hoses and tools, shut off from the pump",
                },
              ]}
            />
          )}
          {isPull && (
            <Field
              {...field("targets")}
              hint="several: a nitrogen break between"
            />
          )}
          {isDecay && <Field {...field("level_pa")} />}
          {isDecay && <Field {...field("at_s")} />}
          {isDecay && (
            <Field {...field("start_max_pa")} hint="if the rule has one" />
          )}
          {!isPull && (
            <Field
              {...field("evacuated_s")}
              hint={
                known == null
                  ? "tells oil and rubber from a leak"
                  : "as the last pull lasted"
              }
            />
          )}
          {!isRig && (
            <Field
              {...field("source")}
              label={isPull ? "Target comes from" : "Limit comes from"}
              placeholder="maker’s page, code, habit"
            />
          )}
        </Grid>
        <Grid $min={150}>
          <Pick
            {...field("gauge")}
            value={gaugeId}
            options={gaugeOptions}
            hint={gauges.length ? undefined : "the kit has none yet"}
          />
          {gaugeId === "hand" && <Field {...field("resolution")} />}
          {gaugeId === "hand" && (
            <Field {...field("range")} hint="top of the scale" />
          )}
          {!isRig && (
            <Pick
              {...field("place")}
              options={PLACES}
              hint={
                said.place !== "near_pump"
                  ? undefined
                  : "the far end reads higher and is what counts"
              }
            />
          )}
          {!isRig && gauges.length > 1 && (
            <Pick
              {...field("second")}
              options={[
                { id: "none", text: "none" },
                ...gaugeOptions.filter(
                  (o) => o.id !== gaugeId && o.id !== "hand",
                ),
              ]}
            />
          )}
          {!isRig && (
            <Pick
              {...field("probe")}
              options={YES}
              hint="at the coldest place: tells water"
            />
          )}
        </Grid>
        {isPull && (
          <Grid $min={150}>
            <Pick {...field("rig")} value={rigId} options={rigOptions} />
            {rigId !== "none" && (
              <>
                <Pick
                  {...field("cores")}
                  options={[
                    { id: "out", text: "out" },
                    { id: "in", text: "left in" },
                  ]}
                />
                <Pick {...field("core_tool")} options={YES} />
                <Pick {...field("two")} options={YES} />
              </>
            )}
          </Grid>
        )}
        {isDecay && (
          <Grid $min={190}>
            <Pick
              {...field("hoses")}
              options={[
                { id: "out", text: "shut out at the system" },
                { id: "in", text: "stay in it" },
              ]}
              hint={
                said.hoses === "in"
                  ? "shut the valve at the pump, then stop it; what they give off counts as the system’s, unless their own check tells it"
                  : undefined
              }
            />
            {said.hoses === "in" && (
              <Pick
                {...field("rig")}
                label="Which rig"
                value={rigId}
                options={rigOptions}
              />
            )}
            {said.hoses === "in" && rigId !== "none" && (
              <Pick
                {...field("cores")}
                options={[
                  { id: "out", text: "out" },
                  { id: "in", text: "left in" },
                ]}
              />
            )}
            <Pick
              {...field("since")}
              options={[
                { id: "none", text: "nothing" },
                { id: "yes", text: "something" },
              ]}
              hint="a hold says nothing about what came after it"
            />
            {said.since === "yes" && (
              <Field {...field("opened")} placeholder="core tool, gauge tee" />
            )}
          </Grid>
        )}
        <KitTicks
          legend="Also used"
          items={kit.filter((i) =>
            ["core_tool", "bottle", "probe"].includes(i.doc.kind ?? ""),
          )}
          chosen={also}
          onChange={setAlso}
        />
        <InUse
          circuit={circuit.id}
          ids={[
            gaugeId,
            said.second,
            ...also,
            ...(withRig ? [rigId, ...(rig?.doc.parts ?? [])] : []),
          ]}
        />
        {withRig && rig?.warning && <Note>{rig.warning}</Note>}
        <FormEnd>Open the test</FormEnd>
      </Form>
      <Closed>
        <summary>Or take a file: a data package or a logger’s CSV</summary>
        <Import circuit={circuit.id} kind={kind} onMade={onMade} />
      </Closed>
    </section>
  );
}
