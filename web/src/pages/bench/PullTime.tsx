import type { Schemas } from "../../api/client";
import { bench, useBench } from "../../api/queries";
import { useEntry } from "../../form/entry";
import { amount, choice, value } from "../../form/schema";
import { Field, Grid } from "../../look/parts";
import { Pick } from "../../look/Pick";
import { span } from "../../units/units";
import { Answer, Source, Wait } from "./parts";
import { Tracks } from "./Tracks";

const FLOWS = {
  "L/min": 1e-3 / 60,
  "m³/h": 1 / 3600,
  cfm: 0.028316846592 / 60,
};

const FIELDS = {
  speed: amount("Pump’s flow"),
  flow: choice<keyof typeof FLOWS>("In", "L/min"),
  ultimate_pa: value("vacuum", "Pump reaches blanked off"),
  bore_mm: amount("Hose’s bore", "mm"),
  length_m: amount("Hose’s length", "m"),
  hoses: choice<"one" | "two">("Hoses", "one"),
  core: choice<"out" | "in">("Valve cores", "out"),
  volume_l: amount("System", "L"),
  target_pa: value("vacuum", "Target"),
};

const better = (g: Schemas["PullGain"]) =>
  g.is_taken_away ? `without ${g.name}` : `with ${g.name} twice as wide`;
const upper = (s: string) => s.charAt(0).toUpperCase() + s.slice(1);

/** How long a pull takes, and what would help. */
export function PullTime() {
  const entry = useEntry(FIELDS);
  const { field, text: said } = entry;
  const n = entry.whole(
    "speed",
    "ultimate_pa",
    "bore_mm",
    "length_m",
    "volume_l",
    "target_pa",
  );
  const body: Schemas["PullInput"] | null = n && {
    ...n,
    speed: n.speed * FLOWS[said.flow],
    two_hoses: said.hoses === "two",
    core_in: said.core === "in",
  };
  const { data, error } = useBench("pull", body, bench.pull);
  return (
    <>
      <Grid $min={150}>
        <Field {...field("speed")} />
        <Pick
          {...field("flow")}
          options={Object.keys(FLOWS).map((id) => ({
            id: id as keyof typeof FLOWS,
            text: id,
          }))}
        />
        <Field {...field("ultimate_pa")} />
        <Field
          {...field("bore_mm")}
          hint="1/4 in hoses have some 5, 3/8 in 9.5"
        />
        <Field {...field("length_m")} />
        <Pick
          {...field("hoses")}
          options={[
            { id: "one", text: "one" },
            { id: "two", text: "two, on two ports" },
          ]}
        />
        <Pick
          {...field("core")}
          options={[
            { id: "out", text: "out" },
            { id: "in", text: "in" },
          ]}
        />
        <Field {...field("volume_l")} />
        <Field {...field("target_pa")} />
      </Grid>
      <Answer aria-live="polite">
        {n && data ? (
          <>
            <b>
              {data.takes_s == null
                ? "it does not get there"
                : `at least ${span(data.takes_s)}`}
            </b>
            <Tracks
              least={0}
              of={[
                ...(data.takes_s == null
                  ? []
                  : [{ label: "as it is", from: 0, to: data.takes_s }]),
                ...data.gains.slice(0, 2).map((g) => ({
                  label: better(g),
                  from: 0,
                  to: g.takes_s,
                  isApart: true,
                })),
              ]}
            />
            <p>
              for a dry and tight system. Water and oil take longer, whatever
              the hose.
            </p>
            {data.gains.slice(0, 2).map((g) => (
              <p key={g.name}>
                {upper(better(g))}: {span(g.takes_s)}.
              </p>
            ))}
          </>
        ) : (
          <Wait
            error={error}
            text="Bore counts most: a hose half as wide pumps up to sixteen times slower."
          />
        )}
      </Answer>
      <Source>
        Flow through tubes from viscous to molecular; core and tools as tubes
        (common practice, no source).
      </Source>
    </>
  );
}
