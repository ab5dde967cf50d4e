import { useEffect, useMemo, useRef, useState, type FormEvent } from "react";
import { Form as AriaForm, type FormProps } from "react-aria-components";
import styled from "styled-components";
import type { Refusal } from "../api/client";
import { Note } from "./parts";

const Around = styled.div`
  display: contents;
`;

interface Props extends FormProps {
  /** What the server refused: shown beside the field whose name it gives, until that field is changed. */
  refusal?: Refusal | null;
  /** Names of the server that another field here stands for. */
  also?: Record<string, string>;
}

/** What a finger would touch of the field of this name; a list hides its own behind a button. */
function touchable(form: HTMLElement, name: string): HTMLElement | null {
  const named = form.querySelector<HTMLElement>(`[name="${CSS.escape(name)}"]`);
  const list = named?.closest(".react-aria-Select");
  return list?.querySelector("button") ?? named;
}

/** A form whose fields are checked by the server: what was refused is gone to, and is never said nowhere. */
export function Form({ refusal, also, children, ...rest }: Props) {
  const root = useRef<HTMLDivElement>(null);
  const [mended, setMended] = useState<Refusal | null>(null);
  /** A refusal of a field that is not on this form. */
  const [lost, setLost] = useState<Refusal | null>(null);
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
  return (
    <Around onInput={typed} ref={root}>
      <AriaForm validationBehavior="aria" validationErrors={errors} {...rest}>
        {children}
        {refusal && lost === refusal && (
          <Note $kind="wrong" role="alert">
            {refusal.message}
          </Note>
        )}
      </AriaForm>
    </Around>
  );
}
