import type { Ref } from "react";
import { ComboBox, ListBox } from "react-aria-components";
import { Boxed, Named, Wrong } from "./parts";
import { Drop, Option } from "./Pick";

/** Type to find one of a list, or write down a new one. */
export function Combo({
  label,
  value,
  onChange,
  options,
  name,
  placeholder,
  error,
  inputRef,
}: {
  label: string;
  value: string;
  onChange: (text: string) => void;
  options: string[];
  name?: string;
  placeholder?: string;
  error?: string;
  inputRef?: Ref<HTMLElement>;
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
      {...(error && { isInvalid: true })}
      validationBehavior="aria"
    >
      <Named>{label}</Named>
      <Boxed
        placeholder={placeholder}
        autoComplete="off"
        ref={inputRef as Ref<HTMLInputElement>}
      />
      <Wrong>{error}</Wrong>
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
