import { useMemo, useState, type FormEvent } from "react";
import { Form as AriaForm, type FormProps } from "react-aria-components";
import styled from "styled-components";
import type { Refusal } from "../api/client";

const Around = styled.div`
  display: contents;
`;

interface Props extends FormProps {
  /** What the server refused: shown beside the field whose name it gives, until that field is changed. */
  refusal?: Refusal | null;
  /** Names of the server that another field here stands for. */
  also?: Record<string, string>;
}

/** A form whose fields are checked by the server. */
export function Form({ refusal, also, ...rest }: Props) {
  const [mended, setMended] = useState<Refusal | null>(null);
  const named = refusal?.field;
  const field = named ? (also?.[named] ?? named) : null;
  const message = refusal === mended ? null : refusal?.message;
  const errors = useMemo(
    () => (field && message ? { [field]: message } : {}),
    [field, message],
  );
  // At the first letter, not when the field is left: a line that goes while a button is pressed moves the button away.
  const typed = (e: FormEvent) => {
    if (refusal && (e.target as HTMLInputElement).name === field)
      setMended(refusal);
  };
  return (
    <Around onInput={typed}>
      <AriaForm validationBehavior="aria" validationErrors={errors} {...rest} />
    </Around>
  );
}
