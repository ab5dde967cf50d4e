import { useWrite } from "../../api/queries";
import { people, useDevices } from "../../api/session";
import { Row } from "../../look/page";
import { Quiet, Trouble } from "../../look/parts";
import { atClock, onDate } from "../../units/units";

/** Devices that are signed in; a lost phone is shut out here. */
export function Devices() {
  const all = useDevices();
  const out = useWrite(people.shutOut);
  return (
    <section>
      <h2>Devices</h2>
      <Trouble of={out.error} />
      <ul>
        {all?.map((d) => (
          <Row key={d.id}>
            <div>
              <strong>{d.device}</strong>
              {d.is_this && " (this one)"}
              <p>
                {d.person} · {d.is_paired ? "paired" : "signed in"}{" "}
                {onDate(d.made_ms)} · last used {onDate(d.seen_ms)},{" "}
                {atClock(d.seen_ms)}
              </p>
            </div>
            {!d.is_this && (
              <Quiet
                onPress={() => out.mutate(d.id)}
                aria-label={`Shut out ${d.device}`}
              >
                Shut out
              </Quiet>
            )}
          </Row>
        ))}
      </ul>
    </section>
  );
}
