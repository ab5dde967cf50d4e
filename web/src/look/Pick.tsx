import { ChevronDown } from "lucide-react";
import type { Ref } from "react";
import {
  Button as AriaButton,
  ListBox,
  ListBoxItem,
  Popover,
  Select,
  SelectValue,
} from "react-aria-components";
import styled from "styled-components";
import { box, Hint, Named, Wrong } from "./parts";

const Opener = styled(AriaButton)`
  ${box}
  display: flex;
  align-items: center;
  justify-content: space-between;
  gap: 0.5em;
  text-align: left;
  cursor: pointer;
  & > span:first-child {
    overflow: hidden;
    text-overflow: ellipsis;
  }
`;
export const Drop = styled(Popover)`
  background: var(--raised);
  border: 1.5px solid var(--edge);
  border-radius: 8px;
  max-height: 60vh;
  overflow: auto;
  min-width: var(--trigger-width);
`;
export const Option = styled(ListBoxItem)`
  padding: 0.6em 0.9em;
  min-height: 48px;
  cursor: pointer;
  outline: none;
  &[data-focused] {
    background: var(--wash);
    box-shadow: inset 4px 0 0 var(--accent);
  }
  &[data-selected] {
    font-weight: 650;
  }
`;

interface PickProps<T extends string> {
  label: string;
  value: T;
  /** Their ids are values of T. */
  options: { id: string; text: string }[];
  onChange: (id: T) => void;
  hint?: string | undefined;
  error?: string | null | undefined;
  /** Of the field that a refusal names. */
  name?: string;
  inputRef?: Ref<HTMLElement>;
}

/** One of a list. */
export function Pick<T extends string>({
  label,
  value,
  options,
  onChange,
  hint,
  error,
  name,
  inputRef,
}: PickProps<T>) {
  return (
    <Select
      value={value || null}
      onChange={(key) => onChange(String(key) as T)}
      {...(name && { name })}
      {...(error && { isInvalid: true })}
      validationBehavior="aria"
      placeholder="Choose"
    >
      <Named>{label}</Named>
      <Opener ref={inputRef as Ref<HTMLButtonElement>}>
        <SelectValue />
        <ChevronDown size={18} aria-hidden />
      </Opener>
      {hint ? <Hint slot="description">{hint}</Hint> : null}
      <Wrong>{error}</Wrong>
      <Drop>
        <ListBox>
          {options.map((o) => (
            <Option key={o.id} id={o.id} textValue={o.text}>
              {o.text}
            </Option>
          ))}
        </ListBox>
      </Drop>
    </Select>
  );
}
