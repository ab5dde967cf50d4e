import { Download, FileText, Printer } from "lucide-react";
import { Fragment, useState } from "react";
import { useParams, useSearchParams } from "react-router";
import { Way } from "../look/Way";
import styled from "styled-components";
import type { Schemas } from "../api/client";
import { useRecord } from "../api/queries";
import { Ladder } from "../charts/Ladder";
import { RunBar } from "../charts/RunBar";
import { Trace } from "../charts/Trace";
import { Button, Mono, Note, Tag, Code } from "../look/parts";
import { Pick } from "../look/Pick";
import { Word } from "../look/verdict";
import { Carries, RecordVisit } from "./RecordVisit";
import { atClock, litres, onDate, trimmed, useUnits } from "../units/units";
import { here } from "../api/room";
import { Covered } from "../look/Covered";

const Sheet = styled.article`
  max-width: 820px;
  margin: 0 auto;
  padding: 20px 20px 60px;
  display: grid;
  grid-template-columns: minmax(0, 1fr);
  gap: 20px;
  @media (max-width: 700px) {
    padding: 12px 12px 60px;
  }
  details {
    display: none;
  }
  @media print {
    padding: 0;
    max-width: none;
    gap: 14px;
  }
`;
/** A table's head is repeated on every printed page. */
const EveryPage = styled.table`
  width: 100%;
  border-collapse: collapse;
  & > tbody > tr > td,
  & > thead > tr > th {
    padding: 0;
  }
  & > thead > tr > th {
    border: 2px solid var(--falling);
    color: var(--falling);
    font-weight: 700;
    padding: 4px 10px;
    text-align: center;
  }
`;
const Get = styled.a`
  display: inline-flex;
  align-items: center;
  gap: 0.4em;
  min-height: 48px;
  @media print {
    display: none;
  }
`;
const Head = styled.header`
  display: flex;
  gap: 14px;
  align-items: center;
  flex-wrap: wrap;
  & > div {
    flex: 1 1 200px;
    min-width: 0;
  }
  border-bottom: 2px solid var(--ink);
  padding-bottom: 12px;
  button {
    margin-left: auto;
  }
  @media print {
    button {
      display: none;
    }
  }
`;
const NotPrinted = styled.span`
  @media print {
    display: none;
  }
`;
const Part = styled.section`
  break-inside: avoid;
  display: grid;
  grid-template-columns: minmax(0, 1fr);
  gap: 8px;
  border-top: 1px solid var(--line);
  padding-top: 12px;
  li {
    margin-bottom: 3px;
  }
`;
const List = styled.dl`
  display: grid;
  grid-template-columns: max-content 1fr;
  gap: 3px 18px;
  @media (max-width: 600px) {
    grid-template-columns: minmax(0, 1fr);
    gap: 0;
    dd {
      margin-bottom: 8px;
    }
  }
  dt {
    color: var(--soft);
  }
  dd {
    overflow-wrap: anywhere;
  }
`;
const Gates = styled.table`
  border-collapse: collapse;
  width: 100%;
  th {
    text-align: left;
    font-weight: 600;
    color: var(--soft);
  }
  td,
  th {
    border-bottom: 1px solid var(--line);
    padding: 5px 12px 5px 0;
    vertical-align: top;
    overflow-wrap: anywhere;
  }
  td:nth-child(2) {
    overflow-wrap: normal;
  }
`;
const Signed = styled.div`
  border: 2px solid var(--ink);
  border-radius: 8px;
  padding: 14px 18px;
  margin: 8px 0;
  break-inside: avoid;
  strong {
    font-size: var(--t-large);
  }
  small {
    font-family: var(--mono);
    overflow-wrap: anywhere;
    color: var(--soft);
  }
`;

const Verdict = styled.p`
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 0.3em 0.8em;
`;

/** Who signed what, and the digest over it. */
export function Signature({
  signature: s,
}: {
  signature: Schemas["SignatureView"];
}) {
  return (
    <Signed>
      <strong>{s.state_title}</strong>
      <p>
        {s.name}, {s.role}, {onDate(s.at_ms)} {atClock(s.at_ms)}
        {s.device_ms != null &&
          ` (the device said ${onDate(s.device_ms)} ${atClock(s.device_ms)})`}
      </p>
      <p>{s.statement}</p>
      <Carries signature={s} />
    </Signed>
  );
}

/** Sources still standing, in a line each. */
function standing(t: Schemas["TestView"]): string[] {
  return (t.argued?.sources ?? [])
    .filter(
      (s) =>
        t.argued?.is_asked &&
        s.code !== "still" &&
        ["likely", "possible"].includes(s.standing),
    )
    .map(
      (s) =>
        `${s.standing === "likely" ? "Likely" : "Possible"}: ${s.title.toLowerCase()}. ${[...s.speaks_for, ...s.against].join(" ")}`,
    );
}

function TestPart({ record }: { record: Schemas["TestRecord"] }) {
  const t = record.test;
  const v = t.verdict;
  return (
    <Part>
      <h2>
        {t.title}, {onDate(t.created_ms)} {atClock(t.created_ms)}
        {t.ended_ms != null && ` to ${atClock(t.ended_ms)}`}
      </h2>
      <Verdict>
        <Word word={v.word} shape={v.shape} /> <strong>{v.headline}</strong>
      </Verdict>
      <p>{v.summary}</p>
      {v.trace.length > 1 && <Trace test={t} height={200} />}
      <ul>
        {[...v.evidence, ...(t.argued?.repeats ?? []), ...standing(t)].map(
          (e) => (
            <li key={e}>{e}</li>
          ),
        )}
      </ul>
      <p>
        {t.reading_count} readings
        {record.struck ? `, ${record.struck} of the last struck out` : ""};
        channels:{" "}
        {t.channels
          .map(
            (c) =>
              `${c.name} (${c.unit.replace("deg", "°")}${c.resolution != null ? `, step ${c.resolution}` : ""}${c.range != null ? `, range ${c.range}` : ""})`,
          )
          .join("; ")}
        .{" "}
        {t.used.length
          ? `With ${t.used.map((u) => `${u.name}${u.words ? ` (${u.words})` : ""}`).join("; ")}. `
          : ""}
        {t.plan.changed?.length
          ? `Opened or fitted since the hold: ${t.plan.changed.join(", ")}. `
          : ""}
        Limit from: {t.limit_from}. Judged by {v.engine_version}.
      </p>
      {t.events.length > 0 && (
        <p>
          Events:{" "}
          {t.events
            .map(
              (e) =>
                `${atClock(e.at_ms)} ${e.note || e.kind.replaceAll("_", " ")}`,
            )
            .join("; ")}
          .
        </p>
      )}
    </Part>
  );
}

/** Of a flare: what it was tightened to. */
function tightened(j: Schemas["JointDoc"]) {
  if (j.kind !== "flare") return "";
  if (!j.is_torqued) return ", not ticked as tightened";
  if (!j.torque) return ", tightened to the maker’s torque";
  return `, tightened to ${j.torque.typed} ${j.torque.unit === "lbft" ? "lb·ft" : "N·m"}`;
}

function gateWord(g: Schemas["GateView"]) {
  if (g.met) return "met";
  return g.overridden ? "overridden" : "missing";
}

const READERS = [
  { id: "all", text: "everything" },
  { id: "owner", text: "the owner: page one" },
  { id: "inspector", text: "the inspector: tests, gauges" },
  { id: "maker", text: "the maker: limits, charge" },
  { id: "regulator", text: "the regulator: ledger" },
  { id: "technician", text: "the next technician" },
];
const PAPERS = [
  { id: "a4", text: "A4" },
  { id: "letter", text: "letter" },
];

const Choose = styled.div`
  grid-column: 1 / -1;
  display: flex;
  flex-wrap: wrap;
  gap: 10px;
  align-items: end;
  @media print {
    display: none;
  }
`;

/** The PDF for whom it is meant. */
function Readers({
  circuit,
  visit,
}: {
  circuit: Schemas["CircuitView"];
  visit: string | null;
}) {
  const { chosen } = useUnits();
  const [reader, setReader] = useState("all");
  const [paper, setPaper] = useState("a4");
  const query = new URLSearchParams({
    reader,
    paper,
    offset: String(-new Date().getTimezoneOffset()),
    ...chosen,
    ...(visit && { visit }),
  });
  return (
    <Choose>
      <Pick
        label="PDF for"
        value={reader}
        onChange={setReader}
        options={READERS}
      />
      <Pick label="On" value={paper} onChange={setPaper} options={PAPERS} />
      <Get href={here(`/api/circuits/${circuit.id}/record.pdf?${query}`)}>
        <FileText size={19} aria-hidden />
        Open the PDF
      </Get>
    </Choose>
  );
}

/** The record, covered as all words are where a drill is worked on gauges only. */
export default function RecordPage() {
  return (
    <Covered>
      <WholeRecord />
    </Covered>
  );
}

function WholeRecord() {
  const { id = "" } = useParams();
  const [search] = useSearchParams();
  const visit = search.get("visit");
  const units = useUnits();
  const { data, error } = useRecord(id, visit);
  if (error)
    return (
      <Note $kind="wrong" role="alert">
        {error.message}
      </Note>
    );
  if (!data) return <p role="status">One moment …</p>;
  const c = data.circuit;
  const steps = c.stages.flatMap((s) => s.steps);
  const sheet = (
    <Sheet>
      <Head>
        <Tag tag={c.tag} />
        <div>
          <h1>
            Record of {c.system}, circuit {c.tag}
          </h1>
          <p>
            {c.site}, {c.place}
          </p>
          <NotPrinted>
            <Way to={`/circuits/${c.id}`}>
              {c.signature
                ? "Open the circuit, or come back to it"
                : "Open the circuit"}
            </Way>
          </NotPrinted>
        </div>
        <Get
          href={here(`/api/circuits/${data.circuit.id}/record.zip`)}
          download
        >
          <Download size={19} aria-hidden />
          Record as a file
        </Get>
        <Button onPress={() => window.print()}>
          <Printer size={19} aria-hidden />
          Print
        </Button>
      </Head>
      <Readers circuit={c} visit={visit} />
      {c.signature ? (
        <Signature signature={c.signature} />
      ) : (
        <Note>
          Not signed. This is work in progress, printed{" "}
          {onDate(data.printed_ms)} {atClock(data.printed_ms)}.
        </Note>
      )}
      <Code as="p">
        <small>
          Entry {c.entries}, SHA-256 {c.hash}
        </small>
      </Code>
      <List>
        <dt>Circuit</dt>
        <dd>{c.name}</dd>
        <dt>Model, serial</dt>
        <dd>{[c.model, c.serial].filter(Boolean).join(", ") || "not given"}</dd>
        <dt>Kind of job</dt>
        <dd>{c.kind_title}</dd>
        <dt>Refrigerant</dt>
        <dd>{c.refrigerant}</dd>
        <dt>Under test</dt>
        <dd>
          {c.scope || "not said"}
          {c.volume_l ? `, ${c.volume_l} L` : ""}
        </dd>
        <dt>Parts and plates</dt>
        <dd>
          {(c.survey.survey.components ?? [])
            .map((p) =>
              [
                p.name,
                p.model,
                p.serial,
                p.low && `low side ${p.low.typed} ${p.low.unit}`,
                p.high &&
                  `${p.low ? "high side " : ""}${p.high.typed} ${p.high.unit}`,
              ]
                .filter(Boolean)
                .join(" "),
            )
            .join("; ") || "none"}
        </dd>
        {c.survey.sections
          .filter((s) => s.is_tested)
          .map((s) => (
            <Fragment key={s.name}>
              <dt>{s.name}</dt>
              <dd>
                ceiling{" "}
                {s.ceiling_pa == null ? (
                  "not known"
                ) : (
                  <>
                    <Mono>
                      {trimmed(units.of("pressure", s.ceiling_pa))}{" "}
                      {units.label("pressure")}
                    </Mono>
                    , {s.ceiling_name}
                  </>
                )}
                ; volume {litres(s.volume_low_l, s.volume_high_l)} L
                {s.volume_is_measured ? "" : ", partly assumed"}
                {s.bounds.length > 0 && `; ${s.bounds.join("; ")}`}
              </dd>
            </Fragment>
          ))}
        {(c.survey.survey.joints ?? []).length > 0 && (
          <>
            <dt>Joints made</dt>
            <dd>
              {(c.survey.survey.joints ?? [])
                .map((j) => j.name + tightened(j))
                .join("; ")}
            </dd>
          </>
        )}
      </List>
      <Part>
        <h2>The run</h2>
        <RunBar run={c.run} height={130} />
      </Part>
      <RecordVisit circuit={c} />
      {c.search.places.some((p) => p.log.length > 0) && (
        <Part>
          <h2>Leak search</h2>
          <ul>
            {c.search.places
              .filter((p) => p.log.length > 0)
              .map((p) => (
                <li key={p.name}>
                  <strong>
                    {p.name}: {p.state_title}.
                  </strong>{" "}
                  {p.log
                    .map(
                      (l) =>
                        `${atClock(l.at_ms)} ${l.words}${l.remark ? ` (${l.remark})` : ""}`,
                    )
                    .join("; ")}
                </li>
              ))}
          </ul>
          {c.search.not_looked > 0 && (
            <p>{c.search.not_looked} usual places were not looked at.</p>
          )}
        </Part>
      )}
      {c.ladder.length > 0 && (
        <Part>
          <Ladder rungs={c.ladder} live={null} />
        </Part>
      )}
      <Part>
        <h2>Gates</h2>
        <Gates>
          <thead>
            <tr>
              <th scope="col">Gate</th>
              <th scope="col">State</th>
              <th scope="col">Evidence</th>
            </tr>
          </thead>
          <tbody>
            {c.gates.map((g) => (
              <tr key={g.code}>
                <td>{g.title}</td>
                <td>{gateWord(g)}</td>
                <td>
                  {g.evidence}
                  {g.reservation ? ` Reservation: ${g.reservation}` : ""}
                  {g.overridden ? (
                    <strong> Deviation: {g.overridden}</strong>
                  ) : null}
                </td>
              </tr>
            ))}
          </tbody>
        </Gates>
      </Part>
      {data.tests.map((t) => (
        <TestPart key={t.test.id} record={t} />
      ))}
      {steps.length > 0 && (
        <Part>
          <h2>Confirmed</h2>
          <ul>
            {steps.map((s) => (
              <li key={`${s.step}${s.at_ms}`}>
                {onDate(s.at_ms)} {atClock(s.at_ms)} {s.title}
                {s.note ? `: ${s.note}` : ""}
              </li>
            ))}
          </ul>
        </Part>
      )}
      <p>
        Ruhe helps to record and judge; it does not certify. The local code, the
        maker’s manual and licensed practice decide.
      </p>
    </Sheet>
  );
  if (!data.has_simulated) return sheet;
  return (
    <EveryPage>
      <thead>
        <tr>
          <th scope="col">
            Contains readings of a simulated gauge: not a record of a real
            system.
          </th>
        </tr>
      </thead>
      <tbody>
        <tr>
          <td>{sheet}</td>
        </tr>
      </tbody>
    </EveryPage>
  );
}
