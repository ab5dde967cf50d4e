import {
  ComboBox,
  FieldError,
  Input,
  ListBox,
  ListBoxItem,
  Popover,
} from "react-aria-components";
import styled from "styled-components";
import { Named } from "./parts";

const Boxed = styled(Input)`
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
`;
const Drop = styled(Popover)`
  background: var(--raised);
  border: 1.5px solid var(--edge);
  border-radius: 8px;
  max-height: 40vh;
  overflow: auto;
  min-width: var(--trigger-width);
`;
const Option = styled(ListBoxItem)`
  padding: 0.6em 0.9em;
  min-height: 48px;
  cursor: pointer;
  outline: none;
  &[data-focused] {
    background: var(--wash);
    box-shadow: inset 4px 0 0 var(--accent);
  }
`;
const Wrong = styled(FieldError)`
  display: block;
  color: var(--falling);
  font-size: 0.92rem;
  font-weight: 600;
  margin-top: 3px;
`;

/** Type to find one of a list, or write down a new one. */
export function Combo({
  label,
  value,
  onChange,
  options,
  name,
  placeholder,
}: {
  label: string;
  value: string;
  onChange: (text: string) => void;
  options: string[];
  name?: string;
  placeholder?: string;
}) {
  return (
    <ComboBox
      inputValue={value}
      onInputChange={onChange}
      onChange={(key) => {
        if (key !== null) onChange(String(key));
      }}
      allowsCustomValue
      {...(name && { name })}
      validationBehavior="aria"
    >
      <Named>{label}</Named>
      <Boxed placeholder={placeholder} autoComplete="off" />
      <Wrong />
      <Drop>
        <ListBox>
          {options.map((o) => (
            <Option key={o} id={o} textValue={o}>
              {o}
            </Option>
          ))}
        </ListBox>
      </Drop>
    </ComboBox>
  );
}
