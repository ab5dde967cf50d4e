import type { Schemas } from "../../api/client";
import { bench, useBench } from "../../api/queries";
import { grams } from "../../charts/Ladder";
import { useEntry } from "../../form/entry";
import { amount, choice, delta, text, value } from "../../form/schema";
import { Field, Grid } from "../../look/parts";
import { Pick } from "../../look/Pick";
import { span, trimmed, useUnits } from "../../units/units";
import { SITS, type Sits } from "../circuit/sits";
import { EnoughChart } from "./EnoughChart";
import { AIR, Answer, Wait } from "./parts";

/** What a weather's figure is. */
const SKIES: Record<Schemas["SkyKind"], string> = {
  steady: "",
  ramp: "An hour",
  cloud: "From sun to shade",
  day: "Either way over a day",
};

export interface EnoughStart {
  pressure?: string;
  digit?: string;
  probes?: string;
  probe?: Sits;
  volume?: [number, number];
  refrigerant?: string;
  every?: string;
}

const FIELDS = {
  pressure: value("pressure", "Test pressure"),
  wanted: amount("Leak wanted", "g a year", { first: "500" }),
  digit: delta("pressure", "Gauge step"),
  probes: text("Probes", { first: "1" }),
  probe: choice<Sits>("Probe is", "unsaid"),
  low: amount("Volume, L, at least"),
  high: amount("Volume, L, at most"),
  every: amount("Read every", "s", { first: "60" }),
  gas: text("Refrigerant", { first: "R-410A" }),
  sky: choice<Schemas["SkyKind"]>("Weather", "steady"),
  sky_k: delta("temperature", "An hour"),
  hour: amount("Begun at", "h", { first: "9" }),
  barometer: choice<"no" | "yes">("Barometer read", "no"),
};

/** How long is enough for a wanted leak, and what would help. */
export function Enough({ start = {} }: { start?: EnoughStart }) {
  const units = useUnits();
  const { meta } = units;
  const entry = useEntry(FIELDS, {
    pressure:
      start.pressure ??
      trimmed(units.of("pressure", units.pascal(300, "psi")), 3),
    digit:
      start.digit ??
      trimmed(units.delta("pressure", units.pascal(0.1, "psi")), 2),
    low: trimmed(start.volume?.[0] ?? meta.usual_volume_low_l, 3),
    high: trimmed(start.volume?.[1] ?? meta.usual_volume_high_l, 3),
    ...(start.every && { every: start.every }),
    sky_k: trimmed(units.delta("temperature", 6), 3),
    probes: start.probes ?? "1",
    probe: start.probe ?? "unsaid",
    ...(start.refrigerant && { gas: start.refrigerant }),
  });
  const { field, text: said } = entry;
  const n = entry.whole(
    "pressure",
    "digit",
    "low",
    "high",
    "every",
    "wanted",
    "sky_k",
    "hour",
  );
  const body: Schemas["EnoughInput"] | null = n && {
    test_pa: n.pressure,
    air_pa: AIR,
    k: 294,
    digit_pa: n.digit,
    range_pa: 5.5e6,
    probes: Number(said.probes),
    probe: said.probe === "unsaid" ? null : said.probe,
    every_s: n.every,
    has_barometer: said.barometer === "yes",
    sky: said.sky,
    sky_k: n.sky_k,
    hour: n.hour,
    volume_low_l: n.low,
    volume_high_l: n.high,
    refrigerant: said.gas,
    grams: n.wanted,
    rate: null,
  };
  const { data, error } = useBench("enough", body, bench.enough);
  const best = data?.variants[0];
  return (
    <>
      <Grid $min={150}>
        <Field {...field("pressure")} />
        <Field {...field("wanted")} hint="at work, worst case" />
        <Field {...field("digit")} />
        <Pick
          {...field("probes")}
          options={["1", "2", "3"].map((id) => ({ id, text: id }))}
        />
        <Pick {...field("probe")} options={SITS} />
        <Field {...field("low")} />
        <Field {...field("high")} />
        <Field {...field("every")} />
        <Pick
          {...field("gas")}
          options={units.meta.refrigerants.map((r) => ({
            id: r.name,
            text: r.name,
          }))}
        />
        <Pick
          {...field("sky")}
          options={[
            { id: "steady", text: "steady" },
            { id: "ramp", text: "warming or cooling" },
            { id: "cloud", text: "sun and cloud" },
            { id: "day", text: "over a day" },
          ]}
        />
        {said.sky !== "steady" && (
          <Field
            {...field("sky_k")}
            label={`${SKIES[said.sky]}, ${units.deltaLabel("temperature")}`}
          />
        )}
        {said.sky === "day" && <Field {...field("hour")} />}
        <Pick
          {...field("barometer")}
          options={[
            { id: "no", text: "no" },
            { id: "yes", text: "yes, or sealed gauge" },
          ]}
        />
      </Grid>
      <Answer aria-live="polite">
        {n && data && best ? (
          <>
            <b>
              {best.needed_s == null
                ? "more than two days"
                : span(best.needed_s)}
            </b>
            <p>
              {best.needed_s == null
                ? `Within two days this set does not show ${grams(n.wanted)} a year.`
                : `from the shut supply, settling included, to rule out ${grams(n.wanted)} a year.`}{" "}
              {data.variants
                .slice(1)
                .map(
                  (v) =>
                    `${v.name.charAt(0).toUpperCase()}${v.name.slice(1)}: ${v.needed_s == null ? "more than two days" : span(v.needed_s)}.`,
                )
                .join(" ")}
            </p>
          </>
        ) : (
          <Wait error={n ? error : null} text="Some figure is still missing." />
        )}
      </Answer>
      {n && data && <EnoughChart view={data} wanted={n.wanted} />}
    </>
  );
}
