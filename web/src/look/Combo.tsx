import { ComboBox, ListBox } from "react-aria-components";
import { Boxed, Drop, Named, Option, Wrong } from "./parts";

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
