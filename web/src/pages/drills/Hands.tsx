import { figure } from "../../units/typed";
import { useState } from "react";
import styled from "styled-components";
import { Refusal, type Schemas } from "../../api/client";
import { useHands } from "../../api/drills";
import {
  Button,
  Field,
  Note,
  Primary,
  Trouble,
  Head,
  Row,
} from "../../look/parts";
import { Pick } from "../../look/Pick";
import { useUnits } from "../../units/units";
import { sinceCame } from "./since";

const Groups = styled.div`
  display: grid;
  gap: 14px;
  h3 {
    font-size: var(--t-note);
    color: var(--soft);
  }
`;
const Acts = styled.div`
  display: grid;
  grid-template-columns: repeat(auto-fill, minmax(220px, 1fr));
  gap: 8px;
  button {
    justify-content: space-between;
    text-align: left;
  }
  small {
    color: var(--soft);
    white-space: nowrap;
  }
`;
const Asked = styled.form`
  border: 2px solid var(--accent);
  border-radius: 8px;
  padding: 12px;
  display: grid;
  gap: 10px;
`;
const Log = styled.ol`
  display: grid;
  gap: 6px;
  font-size: var(--t-note);
  li {
    display: grid;
    grid-template-columns: 4em 1fr;
  }
  time {
    font-family: var(--mono);
    color: var(--soft);
  }
  [data-bad] {
    color: var(--falling);
    font-weight: 600;
  }
`;

const METHODS = [
  { id: "bubbles", text: "bubble liquid" },
  { id: "detector", text: "refrigerant detector" },
  { id: "ultrasound", text: "ultrasound" },
];
const GASES = [
  { id: "nitrogen", text: "dry nitrogen" },
  { id: "shop_air", text: "shop air" },
  { id: "oxygen", text: "oxygen" },
];
const ENDS = [
  { id: "near", text: "the pump’s end" },
  { id: "far", text: "the far end" },
];
const HEATS = [
  { id: "blanket", text: "a warming blanket" },
  { id: "gun", text: "a heat gun" },
];
const PLATES = [
  { id: "near", text: "first plate, or first side" },
  { id: "far", text: "the other" },
];

const cost = (minutes: number) =>
  minutes < 1 ? "at once" : `${Math.round(minutes)} min`;

/** What was done, the latest first. */
export function HandsLog({ log }: { log: Schemas["LogLine"][] }) {
  return (
    <Log aria-label="What was done">
      {[...log].reverse().map((l, i) => (
        <li key={log.length - i}>
          <time>{sinceCame(l.at_s)}</time>
          <span>
            {l.words}.{" "}
            <b data-bad={l.is_bad || undefined}>
              {l.came !== "Done." && l.came}
            </b>
          </span>
        </li>
      ))}
    </Log>
  );
}

/** Everything that hands can do in this part of the work. What an act needs is asked for before it is done. */
export function Hands({
  drill,
  onDone,
}: {
  drill: Schemas["DrillView"];
  onDone: () => void;
}) {
  const units = useUnits();
  const hands = useHands();
  const [asked, setAsked] = useState<Schemas["Offer"] | null>(null);
  const [f, setF] = useState<Record<string, string>>({
    minutes: "10",
    method: "bubbles",
    gas: "nitrogen",
    end: "near",
    plate: "near",
    heat: "blanket",
  });
  const refusal = hands.error instanceof Refusal ? hands.error : null;
  const field = (name: string) => ({
    value: f[name] ?? "",
    onChange: (v: string) => setF({ ...f, [name]: v }),
  });
  const go = (o: Schemas["Offer"]) => {
    const has = (n: Schemas["Need"]) => o.needs.includes(n);
    const text = (n: Schemas["Need"], name: string) =>
      has(n) ? (f[name] ?? "") : null;
    hands.mutate(
      {
        act: o.act,
        place: text("place", "place"),
        minutes: has("minutes") ? figure(f.minutes ?? "") : null,
        pressure: text("pressure", "pressure"),
        mass: text("mass", "mass"),
        near: has("end") ? f.end === "near" : null,
        by: text("method", "method"),
        gas: text("gas", "gas"),
        part: text("plate", "plate"),
        with: text("heat", "heat"),
      },
      { onSuccess: () => setAsked(null) },
    );
  };
  const press = (o: Schemas["Offer"]) => {
    hands.reset();
    if (o.needs.length) {
      if (o.needs.includes("place") && !f.place && drill.places[0])
        setF({ ...f, place: drill.places[0], minutes: "3" });
      setAsked(o);
    } else go(o);
  };
  const groups = [...new Set(drill.offers.map((o) => o.group))];
  const last = drill.log.at(-1);
  return (
    <Groups>
      <Head>
        <h2>Hands</h2>
        <Button onPress={onDone}>Close</Button>
      </Head>
      <p>Each act takes time of the drill; the clock jumps.</p>
      {last && (
        <Note $kind={last.is_bad ? "wrong" : "calm"} role="status">
          {last.words}. {last.came}
        </Note>
      )}
      <Trouble of={refusal} />
      {asked && (
        <Asked
          aria-label={asked.title}
          onSubmit={(e) => {
            e.preventDefault();
            go(asked);
          }}
        >
          <strong>{asked.title}</strong>
          {asked.needs.includes("place") && (
            <Pick
              label="Where"
              {...field("place")}
              options={drill.places.map((p) => ({ id: p, text: p }))}
            />
          )}
          {asked.needs.includes("method") && (
            <Pick label="With" {...field("method")} options={METHODS} />
          )}
          {asked.needs.includes("end") && (
            <Pick label="To" {...field("end")} options={ENDS} />
          )}
          {asked.needs.includes("plate") && (
            <Pick label="Which" {...field("plate")} options={PLATES} />
          )}
          {asked.needs.includes("heat") && (
            <Pick label="With what" {...field("heat")} options={HEATS} />
          )}
          {asked.needs.includes("gas") && (
            <Pick label="Of what" {...field("gas")} options={GASES} />
          )}
          {asked.needs.includes("minutes") && (
            <Field label="Minutes" inputMode="decimal" {...field("minutes")} />
          )}
          {asked.needs.includes("pressure") && (
            <Field
              label={`To, ${units.label("pressure")}`}
              inputMode="decimal"
              {...field("pressure")}
            />
          )}
          {asked.needs.includes("mass") && (
            <Field
              label="How much, with its unit"
              placeholder="9 lb 4 oz"
              {...field("mass")}
            />
          )}
          <Row>
            <Primary type="submit" isDisabled={hands.isPending}>
              Do it
            </Primary>
            <Button onPress={() => setAsked(null)}>Not now</Button>
          </Row>
        </Asked>
      )}
      {groups.map((g) => (
        <section key={g} aria-label={g}>
          <h3>{g}</h3>
          <Acts>
            {drill.offers
              .filter((o) => o.group === g)
              .map((o) => (
                <Button
                  key={o.act}
                  isDisabled={hands.isPending}
                  onPress={() => press(o)}
                >
                  {o.title}{" "}
                  <small>
                    {o.needs.includes("minutes")
                      ? "as you say"
                      : cost(o.minutes)}
                  </small>
                </Button>
              ))}
          </Acts>
        </section>
      ))}
      <section aria-label="Log">
        <h3>Done so far</h3>
        <HandsLog log={drill.log} />
      </section>
    </Groups>
  );
}
