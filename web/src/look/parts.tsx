import { HAND } from "./screen";
import {
  Button as AriaButton,
  FieldError,
  Input,
  Label,
  Text,
  TextArea,
  TextField,
  type TextFieldProps,
} from "react-aria-components";
import type { Ref } from "react";
import styled, { css } from "styled-components";

const press = css`
  min-height: 48px;
  min-width: 48px;
  display: inline-flex;
  align-items: center;
  justify-content: center;
  gap: 0.5em;
  padding: 0.4em 1em;
  border-radius: 8px;
  border: 1.5px solid var(--edge);
  background: transparent;
  color: var(--ink);
  font-weight: 550;
  line-height: 1.15;
  cursor: pointer;
  text-decoration: none;
  /* A finger does not hover: what it touched last keeps its colours. */
  @media (hover: hover) {
    &:hover {
      background: var(--wash);
    }
  }
  &[data-pressed] {
    background: var(--accent-wash);
  }
  &[data-disabled] {
    color: var(--soft);
    border-color: var(--line);
    cursor: default;
  }
`;

export const Button = styled(AriaButton)`
  ${press}
`;

export const Primary = styled(AriaButton)`
  ${press}
  background: var(--accent);
  border-color: var(--accent);
  color: var(--on-accent);
  &:hover,
  &[data-pressed] {
    background: var(--accent);
    filter: brightness(1.12);
  }
  &[data-disabled] {
    background: var(--wash);
    color: var(--soft);
    border-color: var(--line);
  }
`;

/** A small press that still has 48 px around it. */
export const Quiet = styled(AriaButton)`
  ${press}
  border-color: transparent;
  padding: 0.3em 0.6em;
  color: var(--accent);
`;

/** What is to be done now, framed. */
export const Prompt = styled.section`
  border: 2px solid var(--accent);
  border-radius: 8px;
  padding: 12px 14px;
  display: grid;
  gap: 8px;
`;

/** A question that waits for its answer: in the hand a sheet over whatever lies at the thumb. */
export const Sheet = styled(Prompt).attrs<{ "data-question"?: boolean }>({
  "data-question": true,
})`
  @media ${HAND} {
    position: fixed;
    inset: auto 0 0 0;
    z-index: 6;
    max-height: 82dvh;
    overflow: auto;
    border-width: 2px 0 0;
    border-radius: 14px 14px 0 0;
    background: var(--raised);
    padding: 14px 14px max(16px, env(safe-area-inset-bottom));
    box-shadow: 0 -6px 24px rgba(0, 0, 0, 0.25);
  }
`;

export const box = css`
  width: 100%;
  min-height: 48px;
  padding: 0.45em 0.7em;
  border: 1.5px solid var(--edge);
  border-radius: 8px;
  background: var(--raised);
  color: var(--ink);
  &::placeholder {
    color: var(--soft);
    opacity: 0.85;
  }
  &[data-invalid] {
    border-color: var(--falling);
    border-width: 2px;
  }
`;

export const Boxed = styled(Input)`
  ${box}
`;
const Area = styled(TextArea)`
  ${box}
  min-height: 84px;
`;
export const Named = styled(Label)`
  display: block;
  font-size: var(--t-small);
  font-weight: 600;
  color: var(--soft);
  margin-bottom: 3px;
`;
const wrong = css`
  display: block;
  color: var(--falling);
  font-size: var(--t-note);
  font-weight: 600;
  margin-top: 3px;
`;
export const Wrong = styled(FieldError)`
  ${wrong}
`;
/** The same under what is no field of its own. */
export const Fault = styled.span`
  ${wrong}
`;
export const Hint = styled(Text)`
  display: block;
  color: var(--soft);
  font-size: var(--t-small);
  margin-top: 3px;
`;

interface FieldProps extends TextFieldProps {
  label: string;
  hint?: string | undefined;
  error?: string | null | undefined;
  placeholder?: string | undefined;
  isLong?: boolean;
  inputMode?: "text" | "decimal" | "none";
  inputRef?: Ref<HTMLElement>;
}

/** A labelled text field that keeps exactly what is typed. */
export function Field({
  label,
  hint,
  error,
  placeholder,
  isLong,
  inputMode,
  inputRef,
  ...rest
}: FieldProps) {
  return (
    <TextField
      {...rest}
      {...(error && { isInvalid: true })}
      validationBehavior="aria"
    >
      <Named>{label}</Named>
      {isLong ? (
        <Area
          placeholder={placeholder}
          ref={inputRef as Ref<HTMLTextAreaElement>}
        />
      ) : (
        <Boxed
          placeholder={placeholder}
          inputMode={inputMode}
          ref={inputRef as Ref<HTMLInputElement>}
          autoComplete={rest.autoComplete ?? "off"}
        />
      )}
      {hint && !error ? <Hint slot="description">{hint}</Hint> : null}
      <Wrong>{error}</Wrong>
    </TextField>
  );
}

/** A letter tag with a pattern of its own: circuits are told apart by letter, pattern and words, never by colour. */
const PATTERNS = [
  "none",
  "repeating-linear-gradient(45deg, var(--line) 0 3px, transparent 3px 9px)",
  "radial-gradient(var(--edge) 1.6px, transparent 2px) 0 0 / 8px 8px",
  "repeating-linear-gradient(0deg, var(--line) 0 3px, transparent 3px 9px)",
];
const TagBox = styled.span<{ $n: number; $small: boolean }>`
  display: inline-grid;
  place-items: center;
  width: ${(p) => (p.$small ? 34 : 46)}px;
  height: ${(p) => (p.$small ? 34 : 46)}px;
  flex: none;
  border: 2px solid var(--ink);
  border-radius: 6px;
  background: ${(p) => PATTERNS[p.$n % PATTERNS.length]};
  & > b {
    background: var(--paper);
    padding: 0 0.22em;
    border-radius: 3px;
    font-weight: 750;
    font-size: ${(p) => (p.$small ? 1 : 1.3)}rem;
    line-height: 1.1;
  }
`;

export function Tag({
  tag,
  isSmall = false,
}: {
  tag: string;
  isSmall?: boolean;
}) {
  return (
    <TagBox
      $n={Math.max(0, tag.charCodeAt(0) - 65)}
      $small={isSmall}
      aria-hidden
    >
      <b>{tag}</b>
    </TagBox>
  );
}

export const Note = styled.p<{ $kind?: "wrong" | "calm" }>`
  border-left: 4px solid
    var(${(p) => (p.$kind === "wrong" ? "--falling" : "--accent")});
  padding: 0.35em 0.8em;
  background: var(--wash);
  ${(p) => p.$kind === "wrong" && "font-weight: 600;"}
`;

/** What went wrong, where it was asked for. */
export function Trouble({ of }: { of: Error | null | undefined }) {
  return (
    of && (
      <Note $kind="wrong" role="alert">
        {of.message}
      </Note>
    )
  );
}

export const Mono = styled.span`
  font-family: var(--mono);
  font-variant-numeric: tabular-nums;
`;
/** A long word of a machine: it breaks where the line ends. */
export const Code = styled(Mono)`
  overflow-wrap: anywhere;
`;

/** Things side by side, on as many lines as they need. */
export const Row = styled.div`
  display: flex;
  flex-wrap: wrap;
  gap: 10px;
  align-items: center;
`;
/** The same with fields among them: they stand on one line. */
export const Low = styled(Row)`
  align-items: end;
`;
/** A heading with what stands at its end. */
export const Head = styled.header`
  display: flex;
  gap: 12px;
  align-items: center;
  h2 {
    flex: 1;
  }
`;
/** Things below each other. */
export const Stack = styled.section`
  display: grid;
  grid-template-columns: minmax(0, 1fr);
  gap: 12px;
`;
/** Fields that are shut together, with nothing to be seen of it. */
export const Together = styled.fieldset`
  border: 0;
  padding: 0;
  margin: 0;
  min-width: 0;
`;

export const Grid = styled.div<{ $min?: number }>`
  display: grid;
  grid-template-columns: repeat(
    auto-fit,
    minmax(min(100%, ${(p) => p.$min ?? 190}px), 1fr)
  );
  gap: 12px 16px;
  align-items: start;
`;

export const HiddenText = styled.span`
  position: absolute;
  width: 1px;
  height: 1px;
  overflow: hidden;
  clip-path: inset(50%);
  white-space: nowrap;
`;
