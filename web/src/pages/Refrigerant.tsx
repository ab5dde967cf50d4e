import type { Ref } from "react";
import type { Entry } from "../form/entry";
import { choice, text } from "../form/schema";
import { Field } from "../look/parts";
import { Pick } from "../look/Pick";
import { useUnits } from "../units/units";

const UNKNOWN = "unknown";
/** In the list of refrigerants: one that is not in it. */
const ANOTHER = "another";

/** What a circuit takes: one that is known here, or another with its safety class. */
export interface Taken {
  refrigerant: string;
  /** One that is not in the list. */
  isAnother: boolean;
  safety: string;
}

/** Which refrigerant; none is chosen for anybody. `at`: where the field stands in what is sent. */
export function RefrigerantFields({
  value,
  onChange,
  at,
  asked,
}: {
  value: Taken;
  onChange: (part: Partial<Taken>) => void;
  at: string;
  /** What is said at it, and how it is gone to. */
  asked?: { error?: string; inputRef: Ref<HTMLElement> };
}) {
  const { meta } = useUnits();
  return (
    <>
      <Pick
        {...(!value.isAnother && asked)}
        label="Refrigerant"
        value={value.isAnother ? ANOTHER : value.refrigerant}
        onChange={(r) =>
          onChange({
            refrigerant: r === ANOTHER ? "" : r,
            isAnother: r === ANOTHER,
          })
        }
        name={value.isAnother ? "" : `${at}refrigerant`}
        options={[
          ...meta.refrigerants.map((r) => ({
            id: r.name,
            text: `${r.name} (${r.safety_class})`,
          })),
          { id: ANOTHER, text: "another one" },
        ]}
      />
      {value.isAnother && (
        <Field
          {...asked}
          label="Its name"
          value={value.refrigerant}
          onChange={(refrigerant) => onChange({ refrigerant })}
          hint="no charge arithmetic that needs its properties"
          name={`${at}refrigerant`}
        />
      )}
      {value.isAnother && (
        <Pick
          label="Its safety class"
          value={value.safety || UNKNOWN}
          onChange={(safety) =>
            onChange({ safety: safety === UNKNOWN ? "" : safety })
          }
          name={`${at}safety_class`}
          options={[
            { id: UNKNOWN, text: "not known: treated as one that burns" },
            ...["A1", "A2L", "A2", "A3", "B1", "B2L", "B2", "B3"].map((id) => ({
              id,
              text: id,
            })),
          ]}
        />
      )}
    </>
  );
}

/** The fields of what a circuit takes, in a form with a schema; `asks`: it may not be left empty. */
export const takenFields = (asks?: string) => ({
  refrigerant: text("Refrigerant", asks ? { asks } : {}),
  isAnother: choice<"yes" | "">("Another refrigerant", ""),
  safety: text("Its safety class"),
});

/** Which refrigerant, as such a form has it. */
export function takenOf(entry: Entry<ReturnType<typeof takenFields>>) {
  const { refrigerant, isAnother, safety } = entry.text;
  return {
    value: { refrigerant, isAnother: isAnother === "yes", safety },
    onChange: ({ isAnother: is, ...part }: Partial<Taken>) =>
      entry.set({
        ...part,
        ...(is !== undefined && { isAnother: is ? "yes" : "" }),
      }),
    at: "",
  };
}

/** The safety class as it is sent: of a known one nobody says it. */
export function useSafetyOf() {
  const { meta } = useUnits();
  return (t: Taken) =>
    meta.refrigerants.some((r) => r.name === t.refrigerant) ? "" : t.safety;
}
