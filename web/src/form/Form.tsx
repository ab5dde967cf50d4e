import {
  createContext,
  useContext,
  useEffect,
  useMemo,
  useRef,
  useState,
  type FormEvent,
  type ReactNode,
} from "react";
import { Form as AriaForm, type FormProps } from "react-aria-components";
import styled from "styled-components";
import { Refusal } from "../api/client";
import { Note, Primary, Row } from "../look/parts";

const Around = styled.div`
  display: contents;
`;

/** Something that is sent, and what came of it. */
interface Sent {
  error: Error | null;
  isPending: boolean;
}
interface Props extends Omit<FormProps, "onSubmit"> {
  /** What it is sent with: a refusal is shown beside the field whose name it gives, until that field is changed. */
  save?: Sent;
  /** What is wrong with it beside its fields. */
  wrong?: string | null;
  /** Its fields: nothing is sent while one of them is wrong. */
  entry?: { problems: string[]; check: (then: () => void) => void };
  /** Names of the server that another field here stands for. */
  also?: Record<string, string>;
  /** Without it, the form has buttons of its own, and Enter sends nothing. */
  onSubmit?: () => void;
}

const Context = createContext<{ says: string[]; isPending: boolean }>({
  says: [],
  isPending: false,
});

/** What a finger would touch of the field of this name; a list hides its own behind a button. */
function touchable(form: HTMLElement, name: string): HTMLElement | null {
  const named = form.querySelector<HTMLElement>(`[name="${CSS.escape(name)}"]`);
  const list = named?.closest(".react-aria-Select");
  return list?.querySelector("button") ?? named;
}

/** A form whose fields are checked by their schema and by the server: what was refused is gone to, and is never said
 * nowhere. */
export function Form({
  save,
  entry,
  wrong,
  also,
  onSubmit,
  children,
  ...rest
}: Props) {
  const root = useRef<HTMLDivElement>(null);
  const [mended, setMended] = useState<Error | null>(null);
  /** A refusal of a field that is not on this form. */
  const [lost, setLost] = useState<Error | null>(null);
  const refusal = save?.error instanceof Refusal ? save.error : null;
  const named = refusal?.field;
  const field = named ? (also?.[named] ?? named) : null;
  const message = refusal === mended ? null : refusal?.message;
  const errors = useMemo(
    () => (field && message ? { [field]: message } : {}),
    [field, message],
  );
  useEffect(() => {
    if (!refusal || !field || !root.current) return;
    const it = touchable(root.current, field);
    setLost(it ? null : refusal);
    it?.scrollIntoView({ block: "nearest" });
    it?.focus();
  }, [refusal, field]);
  // At the first letter, not when the field is left: a line that goes while a button is pressed moves the button away.
  const typed = (e: FormEvent) => {
    if (refusal && (e.target as HTMLInputElement).name === field)
      setMended(refusal);
  };
  const submit = (e: FormEvent) => {
    e.preventDefault();
    if (!onSubmit) return;
    const bad = root.current?.querySelector<HTMLElement>("[data-wrong] input");
    if (bad) return bad.focus();
    if (entry) entry.check(onSubmit);
    else onSubmit();
  };
  const error = save?.error;
  const isSaid = error && (!field || lost === error);
  const says = [
    ...(wrong ? [wrong] : []),
    ...(entry?.problems ?? []),
    ...(isSaid && error !== mended ? [error.message] : []),
  ];
  return (
    <Around onInput={typed} ref={root}>
      <AriaForm
        validationBehavior="aria"
        validationErrors={errors}
        onSubmit={submit}
        {...rest}
      >
        <Context value={{ says, isPending: save?.isPending ?? false }}>
          {children}
        </Context>
      </AriaForm>
    </Around>
  );
}

/** What is wrong with the form around, where its buttons are. */
export function Said() {
  const { says } = useContext(Context);
  return (
    says.length > 0 && (
      <Note $kind="wrong" role="alert" as="div">
        {says.map((s) => (
          <p key={s}>{s}</p>
        ))}
      </Note>
    )
  );
}

/** The end of a form: what is wrong with it, and the press that sends it. */
export function FormEnd({
  children,
  isDisabled = false,
  others,
}: {
  children: ReactNode;
  isDisabled?: boolean;
  /** Presses beside it. */
  others?: ReactNode;
}) {
  const { isPending } = useContext(Context);
  return (
    <>
      <Said />
      <Row>
        <Primary type="submit" isDisabled={isPending || isDisabled}>
          {children}
        </Primary>
        {others}
      </Row>
    </>
  );
}
