import { useMay, useSession } from "../api/session";
import { Note } from "./parts";

/** Said to whoever may not work here, before they look for a button that is not there. */
export function LooksOn() {
  const person = useSession()?.person;
  const mayWork = useMay("work");
  const maySign = useMay("countersign");
  if (mayWork || !person) return null;
  return (
    <Note role="note">
      You look on as {person.role_title.toLowerCase()}: nothing is entered from
      here
      {maySign ? ", but you may countersign what is signed." : "."}
    </Note>
  );
}
