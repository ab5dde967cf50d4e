import { useState } from "react";
import { Link } from "react-router";
import type { Schemas } from "../../../api/client";
import { useKit, useWrite, writes } from "../../../api/queries";
import { useEntry } from "../../../form/entry";
import { FormEnd } from "../../../form/Form";
import { Field, Grid, Note } from "../../../look/parts";
import { Pick } from "../../../look/Pick";
import { trimmed, useUnits } from "../../../units/units";
import { Enough } from "../../bench/Enough";
import { Nitrogen } from "../../bench/Nitrogen";
import { Import } from "../file/Import";
import { InUse } from "../kit/InUse";
import { Big, Closed, Form, schoolsOf, worth } from "../plan";
import { SITS } from "../sits";
import { FIELDS, holdOf, PLACES, probesOf, type HoldEntry } from "./fields";
import { LowerRetest } from "./LowerRetest";
import { Tools } from "./Tools";

/** A hold that nobody watches, s. */
const LONG = 240 * 60;

/** Several probes: what each is called, where it sits, how much of the volume it stands for. */
function Probes({ entry }: { entry: HoldEntry }) {
  const probes = probesOf(entry);
  if (probes.length < 2) return null;
  return probes.map((p) => (
    <Grid $min={150} key={p.name}>
      <Field {...entry.field(p.name)} />
      <Pick {...entry.field(p.place)} options={PLACES} />
      <Field {...entry.field(p.share)} hint="empty: equal shares" />
    </Grid>
  ));
}

/** Plan of a pressure hold, with what binds in view, the bottle and the time it takes within reach. */
export default function PlanHold({
  circuit,
  onMade,
  onLeakBy,
}: {
  circuit: Schemas["CircuitView"];
  onMade: (id: string) => void;
  onLeakBy: () => void;
}) {
  const units = useUnits();
  const { all: schools, first } = schoolsOf(units.meta, "pressure-hold");
  const sections = circuit.survey.sections;
  const show = (pa: number) =>
    trimmed(units.of("pressure", pa)).replace("−", "-");
  /** What a procedure asks for in a section. */
  const begin = (code: string, of: string) => {
    const s = schools.find((x) => x.code === code);
    const pa =
      sections
        .find((x) => x.name === of)
        ?.begin.find((b) => b.procedure === code)?.pa ?? s?.pressure_pa;
    return {
      test_pa: pa ? show(pa) : "",
      planned_s: s ? String(s.time_s / 60) : "",
    };
  };
  const under = (sections.find((s) => s.is_tested) ?? sections[0])?.name ?? "";
  const entry = useEntry(FIELDS, {
    section: under,
    school: first?.code ?? "own",
    resolution: String(units.usualStep(units.chosen.pressure)),
    ...begin(first?.code ?? "", under),
  });
  const { field, text, si } = entry;
  const here = sections.find((s) => s.name === text.section);
  const ceiling = here?.ceiling_pa ?? null;
  const save = useWrite(
    writes.test(circuit.id, { pressure: units.chosen.pressure }),
  );
  const items = (useKit().data?.items ?? []).filter((i) => !i.doc.is_retired);
  const kit = items.filter((i) => i.doc.kind === "pressure_gauge");
  const [also, setAlso] = useState<string[]>([]);
  /** A gauge of the kit brings its figures along, in the units on screen. */
  const fromKit = (gauge: string) => {
    const d = kit.find((i) => i.id === gauge)?.doc;
    const unit = d?.unit ?? "";
    const step =
      d?.resolution == null
        ? null
        : units.pascal(d.resolution, unit) - units.pascal(0, unit);
    entry.set({
      gauge,
      ...(d && {
        calibration_due: d.calibration_due ?? "",
        range: d.range == null ? "" : show(units.pascal(d.range, unit)),
        ...(step !== null && {
          resolution: trimmed(units.delta("pressure", step)),
        }),
      }),
    });
  };
  const isAbove =
    here?.strength_above_pa != null &&
    si.test_pa !== null &&
    si.test_pa > here.strength_above_pa &&
    (entry.typed("test_pa") ?? 0) > 0;
  const volume: [number, number] = [
    circuit.volume_l ?? here?.volume_low_l ?? units.meta.usual_volume_low_l,
    circuit.volume_l ?? here?.volume_high_l ?? units.meta.usual_volume_high_l,
  ];
  const probes = probesOf(entry).length;
  return (
    <section>
      <Form
        save={save}
        entry={entry}
        also={{ over_s: "drop_pa", channels: "name1", name: "name1" }}
        onSubmit={() =>
          save.mutate(holdOf(entry, units, isAbove, also), {
            onSuccess: (made) => onMade(made.id),
          })
        }
      >
        <h2>Plan a pressure hold</h2>
        <Big>
          Lowest plate:{" "}
          {ceiling === null ? (
            "none entered yet"
          ) : (
            <>
              <b>{show(ceiling)}</b> {units.label("pressure")},{" "}
              {here?.ceiling_name}
            </>
          )}
        </Big>
        {sections.length > 1 && (
          <Pick
            {...field("section")}
            onChange={(section) =>
              entry.set({
                section,
                ...(text.school !== "own" && begin(text.school, section)),
              })
            }
            options={sections.map((s) => ({ id: s.name, text: s.name }))}
            hint={here?.bounds.join("; ")}
          />
        )}
        <Pick
          {...field("school")}
          options={[
            ...schools.map((s) => ({ id: s.code, text: s.title })),
            { id: "own", text: "The maker’s or my own" },
          ]}
          onChange={(school) =>
            entry.set({
              school,
              ...(school !== "own" && begin(school, text.section)),
            })
          }
          hint={worth(schools.find((s) => s.code === text.school))}
        />
        <Grid $min={150}>
          <Field {...field("test_pa")} />
          <Field {...field("planned_s")} />
          <Field
            {...field("drop_pa")}
            hint={`empty: ${trimmed(100 * units.meta.usual_drop)} % of absolute pressure`}
          />
          <Field {...field("source")} placeholder="maker’s page, code, habit" />
        </Grid>
        <LowerRetest
          again={circuit.search.retests.find(
            (r) => r.section === text.section && !r.is_met,
          )}
          planned={(entry.typed("test_pa") ?? 0) > 0 ? si.test_pa : null}
        />
        {isAbove && (
          <Grid
            $min={150}
            role="group"
            aria-label="Strength test above a plate"
          >
            <Field
              {...field("code")}
              hint="above a plate only by a named code"
            />
            <Field {...field("edition")} />
            <Field {...field("factor")} />
            <Field {...field("reason")} />
          </Grid>
        )}
        <Grid $min={150}>
          {kit.length > 0 && (
            <Pick
              {...field("gauge")}
              onChange={fromKit}
              options={[
                ...kit.map((i) => ({ id: i.id, text: i.doc.name ?? "" })),
                { id: "hand", text: "another one" },
              ]}
            />
          )}
          <Field {...field("resolution")} />
          <Field {...field("range")} hint="top of the scale" />
          <Pick
            {...field("sides")}
            options={[
              { id: "one", text: "one" },
              { id: "two", text: "both sides" },
            ]}
          />
          <Pick
            {...field("probes")}
            options={["none", "one", "two", "three"].map((n, i) => ({
              id: String(i),
              text: n,
            }))}
            hint={
              probes ? "on different parts" : "without one it stays undecided"
            }
          />
          {probes > 0 && (
            <Pick
              {...field("probe")}
              options={SITS}
              hint="the better it sits, the sooner it is decided"
            />
          )}
          <Pick
            {...field("sky")}
            options={[
              { id: "unsaid", text: "not said" },
              { id: "indoors", text: "indoors" },
              { id: "overcast", text: "overcast" },
              { id: "sun_cloud", text: "sun and cloud" },
              { id: "windy", text: "windy" },
            ]}
            hint="what the pipes feel"
          />
          <Field
            {...field("warming_k")}
            hint="sun on a closed hold raises it"
          />
        </Grid>
        <Probes entry={entry} />
        <Tools entry={entry} items={items} also={also} onAlso={setAlso} />
        <InUse circuit={circuit.id} ids={[text.gauge, ...also]} />
        {(si.planned_s ?? 0) >= LONG && (
          <Note>
            A long hold, unattended: strap and lag the probe in the shade; a
            barometer, or a sealed gauge; the ceiling at the day’s warmest hour;
            say whether the gauge stays on or what its hose holds; a tag on the
            set. One more reading when it is as warm again as now is the best
            end.
          </Note>
        )}
        <FormEnd>Open the test</FormEnd>
      </Form>
      <Closed>
        <summary>How long is enough?</summary>
        <Enough
          key={text.section + text.test_pa + text.probe}
          start={{
            pressure: text.test_pa,
            digit: text.resolution,
            probes: String(Math.max(1, probes)),
            ...(probes > 0 && { probe: text.probe }),
            volume,
            refrigerant: circuit.refrigerant,
            ...(si.read_every_s !== null && {
              every: String(si.read_every_s),
            }),
          }}
        />
      </Closed>
      <Closed>
        <summary>Does the nitrogen reach?</summary>
        <Nitrogen
          key={text.section + text.test_pa}
          start={{ to: text.test_pa, system: trimmed(volume[1], 2) }}
        />
      </Closed>
      <Closed>
        <summary>Other ways: two halves, or a file</summary>
        <p>
          Two gauges on the two sides of a shut valve tell a leak outside from a
          valve that lets by.{" "}
          <Link
            to="#"
            onClick={(e) => {
              e.preventDefault();
              onLeakBy();
            }}
          >
            Plan a leak-by test
          </Link>
        </p>
        <Import circuit={circuit.id} kind="pressure-hold" onMade={onMade} />
      </Closed>
      {here && here.missing.length > 0 && <Note>{here.missing.join(" ")}</Note>}
    </section>
  );
}
