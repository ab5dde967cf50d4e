import { CloudOff } from "lucide-react";
import { useState } from "react";
import { Dialog, DialogTrigger, Popover } from "react-aria-components";
import styled from "styled-components";
import {
  adopt,
  drop,
  isCommand,
  isMine,
  isReading,
  sendAgain,
  useAllWaiting,
  useIsLoose,
  type Waiting,
  type WaitingCommand,
} from "../api/outbox";
import { useIsReachable } from "../api/reach";
import { confirmed } from "../api/session";
import { hasPocket } from "../pocket/pocket";
import { atSecond } from "../units/units";
import { Button, Field, Note, Quiet } from "./parts";

const State = styled.span`
  white-space: nowrap;
  display: inline-flex;
  align-items: center;
  gap: 0.4em;
  font-weight: 650;
  font-size: var(--t-note);
  color: var(--falling);
`;
const Waits = styled(Quiet)`
  color: var(--falling);
  font-weight: 650;
  white-space: nowrap;
`;
const Sheet = styled(Popover)`
  background: var(--raised);
  border: 1.5px solid var(--edge);
  border-radius: 10px;
  padding: 14px;
  width: min(420px, 94vw);
  max-height: 80vh;
  overflow: auto;
`;
const List = styled.ul`
  display: grid;
  gap: 10px;
  margin: 8px 0;
`;

/** What an entry is, by the address it goes to. */
const WHAT: Record<string, string> = {
  steps: "A step",
  overrides: "An override",
  looks: "A look",
  repairs: "A repair",
  arrival: "How it was found",
  target: "What the maker wants",
  ledger: "A ledger row",
  ports: "Ports",
  "vacuum-broken": "Vacuum broken",
  sets: "A reading set",
  consents: "A consent",
  additions: "Added words",
  visits: "A visit",
  witness: "A witness",
  signature: "The signature",
  survey: "The survey",
  tests: "A new test",
  photos: "A photo",
  strike: "Something struck out",
  clock: "A clock started by hand",
  end: "The end of a test",
};

function title(w: Waiting): string {
  if (isReading(w)) return `Reading ${w.typed}`;
  if (!isCommand(w)) return w.kind.replaceAll("_", " ");
  return WHAT[w.request.path.split("/").at(-1) ?? ""] ?? "An entry";
}

/** A signature that was made without the server: the password it asks for, and off it goes. */
function Confirm({ waits }: { waits: WaitingCommand }) {
  const [password, setPassword] = useState("");
  const [problem, setProblem] = useState<string | null>(null);
  const send = async () => {
    try {
      await sendAgain(waits, await confirmed(password));
    } catch (e) {
      setProblem(e instanceof Error ? e.message : "it could not be sent");
    }
  };
  return (
    <>
      <Field
        label="Password"
        type="password"
        value={password}
        onChange={setPassword}
        autoComplete="current-password"
        error={problem}
      />
      <Button onPress={() => void send()}>Confirm and send</Button>
    </>
  );
}

function Item({ waits }: { waits: Waiting }) {
  const asksPassword =
    isCommand(waits) && waits.refused != null && waits.field === "password";
  return (
    <li>
      <strong>{title(waits)}</strong>, {atSecond(waits.client_ms)}
      {!isMine(waits) && waits.person.id !== "" && (
        <p>
          Entered by {waits.person.name}: it is sent when they sign in here.
        </p>
      )}
      {!isMine(waits) && waits.person.id === "" && (
        <>
          <p>Entered before anybody was known by name.</p>
          <Button onPress={() => adopt(waits)}>Send it as mine</Button>
        </>
      )}
      {waits.refused && <Note $kind="wrong">{waits.refused}</Note>}
      {asksPassword && <Confirm waits={waits} />}
      {waits.refused && <Quiet onPress={() => drop(waits.id)}>Forget it</Quiet>}
    </li>
  );
}

/** On every page: that the server is away, and how much is not there yet. */
export function Unsent() {
  const all = useAllWaiting();
  const isReachable = useIsReachable();
  const isLoose = useIsLoose();
  if (!all.length)
    return isReachable ? null : (
      <State>
        <CloudOff size={18} aria-hidden />
        {hasPocket ? "No network" : "No network; readings wait here"}
      </State>
    );
  const refused = all.filter((w) => w.refused).length;
  return (
    <DialogTrigger>
      <Waits>
        {!isReachable && <CloudOff size={18} aria-hidden />}
        {all.length} not sent
      </Waits>
      <Sheet placement="bottom end">
        <Dialog aria-label="Not sent">
          <b>
            {isReachable
              ? "Not sent"
              : "The server cannot be reached; it all is kept here"}
          </b>
          <p>
            {isReachable || !hasPocket
              ? "It is sent in the order in which it was entered."
              : "What is shown was worked out on this device. The server judges it again."}
            {refused > 0 &&
              ` ${refused} refused: see why, then forget or mend it.`}
          </p>
          {isLoose && (
            <Note $kind="wrong">
              This device has no room left: keep this page open until all is
              sent.
            </Note>
          )}
          <List>
            {all.map((w) => (
              <Item key={w.id} waits={w} />
            ))}
          </List>
        </Dialog>
      </Sheet>
    </DialogTrigger>
  );
}
