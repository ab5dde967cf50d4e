import { FormEnd } from "../../form/Form";
import { useTitle } from "../../look/title";
import { UserPlus } from "lucide-react";
import { useState } from "react";
import { type Schemas } from "../../api/client";
import { useWrite } from "../../api/queries";
import {
  people,
  useMay,
  usePeople,
  useRefusals,
  useSession,
} from "../../api/session";
import { Form, Page, Row } from "../../look/page";
import {
  Button,
  Field,
  Grid,
  Primary,
  Quiet,
  Trouble,
  Row as Side,
} from "../../look/parts";
import { Pick } from "../../look/Pick";
import { atClock, onDate } from "../../units/units";
import { Devices } from "./Devices";
import { PairPhone } from "./PairPhone";
import { Password } from "./Password";

const ROLES: { id: Schemas["Role"]; text: string }[] = [
  { id: "technician", text: "Technician: works and signs" },
  { id: "lead", text: "Lead: overrides gates, says who comes in" },
  { id: "witness", text: "Witness: looks on, signs beside" },
  { id: "office", text: "Office: reads and prints" },
];

/** Whoever changes who comes in is asked for their own password: a device left lying about shall not do it. */
function OwnPassword({
  value,
  onChange,
}: {
  value: string;
  onChange: (v: string) => void;
}) {
  return (
    <Field
      label="Your own password"
      type="password"
      autoComplete="current-password"
      value={value}
      onChange={onChange}
    />
  );
}

/** What was refused at the door, an hour a line. */
function Refusals() {
  const all = useRefusals(true);
  if (!all?.length) return null;
  return (
    <section>
      <h2>Refused at the door</h2>
      <ul>
        {all.slice(0, 20).map((r) => (
          <Row key={`${r.hour_ms} ${r.what} ${r.place} ${r.address}`}>
            <div>
              <strong>{r.what}</strong>
              <p>
                {onDate(r.hour_ms)}, {atClock(r.hour_ms)} and the hour after it:{" "}
                {r.count} from {r.place}, {r.address}
              </p>
            </div>
          </Row>
        ))}
      </ul>
    </section>
  );
}

/** Somebody new; the first of all is a lead. */
function AddPerson({ isFirst, done }: { isFirst: boolean; done: () => void }) {
  const [form, setForm] = useState({
    name: "",
    role: (isFirst ? "lead" : "technician") as Schemas["Role"],
    password: "",
    own: "",
  });
  const save = useWrite(people.add);
  return (
    <Form
      save={save}
      onSubmit={() => {
        save.mutate(form, { onSuccess: done });
      }}
    >
      <Grid>
        <Field
          label="Name"
          name="name"
          value={form.name}
          onChange={(name) => setForm({ ...form, name })}
          hint="It stands under everything they enter, and is never given twice."
        />
        {!isFirst && (
          <Pick
            label="As"
            value={form.role}
            onChange={(role) => setForm({ ...form, role })}
            options={ROLES}
            name="role"
          />
        )}
        <Field
          label="Password"
          name="password"
          type="password"
          value={form.password}
          onChange={(password) => setForm({ ...form, password })}
          hint="A few words that do not belong together."
        />
        {!isFirst && (
          <OwnPassword
            value={form.own}
            onChange={(own) => setForm({ ...form, own })}
          />
        )}
      </Grid>
      <FormEnd>{isFirst ? "Make the first person" : "Let them in"}</FormEnd>
    </Form>
  );
}

function PersonRow({
  person,
  mayChange,
}: {
  person: Schemas["PersonView"];
  mayChange: boolean;
}) {
  const [isOpen, setOpen] = useState(false);
  const [role, setRole] = useState(person.role);
  const [password, setPassword] = useState("");
  const [own, setOwn] = useState("");
  const save = useWrite(people.change);
  const change = (is_out: boolean) =>
    save.mutate(
      { id: person.id, role, is_out, password: password || null, own },
      { onSuccess: () => setOpen(false) },
    );
  return (
    <Row>
      <div>
        <strong>{person.name}</strong>
        <p>{person.is_out ? "no longer comes in" : person.role_title}</p>
      </div>
      {mayChange && (
        <Quiet
          onPress={() => setOpen(!isOpen)}
          aria-expanded={isOpen}
          aria-label={`Change ${person.name}`}
        >
          Change
        </Quiet>
      )}
      {isOpen && (
        <div style={{ gridColumn: "1 / -1", display: "grid", gap: 12 }}>
          <Grid>
            <Pick label="As" value={role} onChange={setRole} options={ROLES} />
            <Field
              label="New password, if it was lost"
              type="password"
              value={password}
              onChange={setPassword}
              hint="It signs them out everywhere."
            />
            <OwnPassword value={own} onChange={setOwn} />
          </Grid>
          <Trouble of={save.error} />
          <Side>
            <Primary onPress={() => change(false)}>
              {person.is_out ? "Let them in again" : "Keep"}
            </Primary>
            {!person.is_out && (
              <Button onPress={() => change(true)}>Shut out</Button>
            )}
          </Side>
        </div>
      )}
    </Row>
  );
}

/** Who comes in, on which devices; and the way in for a phone. */
export default function People() {
  useTitle("People");
  const session = useSession();
  const all = usePeople();
  const mayChange = useMay("people");
  const [isAdding, setAdding] = useState(false);
  const out = useWrite(people.signOut);
  const everywhere = useWrite(people.signOutEverywhere);
  if (!session || !all) return <p role="status">One moment …</p>;
  if (!session.person)
    return (
      <Page>
        <h1>People</h1>
        <p>
          Nobody is known here yet. Whoever sits at this machine may do
          everything, entries carry no name, and no other device can reach Ruhe.
          With the first person Ruhe asks everybody who they are, on this
          machine too; then phones can be paired.
        </p>
        {session.may_found ? (
          <AddPerson isFirst done={() => undefined} />
        ) : (
          <p>The first person is made on the machine that Ruhe runs on.</p>
        )}
      </Page>
    );
  return (
    <Page>
      <h1>People</h1>
      <p>
        Signed in as <strong>{session.person.name}</strong>,{" "}
        {session.person.role_title.toLowerCase()}, on {session.device}.
      </p>
      <Side>
        <Button onPress={() => out.mutate(undefined)}>Sign out</Button>
        <Button onPress={() => everywhere.mutate(undefined)}>
          Sign out everywhere
        </Button>
        <Password />
      </Side>
      <PairPhone />
      <Devices />
      <section>
        <h2>Known here</h2>
        <ul>
          {all.map((p) => (
            <PersonRow
              key={`${p.id} ${p.role} ${p.is_out}`}
              person={p}
              mayChange={mayChange}
            />
          ))}
        </ul>
      </section>
      {mayChange && !isAdding && (
        <span>
          <Button onPress={() => setAdding(true)}>
            <UserPlus size={20} aria-hidden /> Somebody new
          </Button>
        </span>
      )}
      {mayChange && <Refusals />}
      {isAdding && <AddPerson isFirst={false} done={() => setAdding(false)} />}
    </Page>
  );
}
