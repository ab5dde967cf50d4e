import { FormEnd } from "../../form/Form";
import { figure } from "../../units/typed";
import { useState } from "react";
import { type Schemas } from "../../api/client";
import { drills } from "../../api/drills";
import { useWrite } from "../../api/queries";
import { Form } from "../../look/page";
import { Button, Field, Grid } from "../../look/parts";
import { Pick } from "../../look/Pick";

type Text = Record<string, string>;

const PHASES = [
  { id: "pressure", text: "under pressure" },
  { id: "vacuum", text: "under vacuum" },
];
const YES_NO = [
  { id: "no", text: "no" },
  { id: "yes", text: "yes, until it is tapped" },
];

/** A teacher's drill: truth, situation and par in plain figures. */
export function MakeDrill({ onDone }: { onDone: () => void }) {
  const [f, setF] = useState<Text>({
    phase: "pressure",
    limit_psig: "600",
    litres: "7",
    par_minutes: "60",
    sticks: "no",
    places: "flare, liquid\nflare, vapour\ncore of the port",
  });
  const save = useWrite(drills.make);
  const isVacuum = f.phase === "vacuum";
  const field = (name: string) => ({
    name,
    value: f[name] ?? "",
    onChange: (v: string) => setF({ ...f, [name]: v }),
  });
  const number = (name: string) => figure(f[name] ?? "") || 0;
  const submit = () => {
    const body: Schemas["Form"] = {
      title: f.title ?? "",
      phase: (f.phase ?? "pressure") as Schemas["DrillPhase"],
      told: f.told ?? "",
      before: f.before ?? "",
      start: number("start"),
      limit_psig: number("limit_psig"),
      litres: number("litres"),
      places: (f.places ?? "").split("\n").filter((p) => p.trim()),
      leaks_at: f.leaks_at ?? "",
      leak: number("leak"),
      opens_above_psig: number("opens_above_psig"),
      water_g: number("water_g"),
      sun_f_per_hour: number("sun_f_per_hour"),
      sticks: f.sticks === "yes",
      reveals: f.reveals ?? "",
      par_minutes: number("par_minutes"),
    };
    save.mutate(body, { onSuccess: onDone });
  };
  return (
    <Form onSubmit={submit} save={save} aria-label="Make a drill">
      <Grid>
        <Field label="What it is called" {...field("title")} />
        <Pick label="Part of the work" {...field("phase")} options={PHASES} />
      </Grid>
      <Field label="The situation, as it is told" isLong {...field("told")} />
      <Field
        label="Answer to “what was done before”, if anything"
        {...field("before")}
      />
      <Grid>
        <Field
          label={isVacuum ? "Pumped to, micron" : "Stands at, psig"}
          inputMode="decimal"
          {...field("start")}
        />
        <Field label="Volume, L" inputMode="decimal" {...field("litres")} />
        <Field
          label="Weakest part, psig"
          inputMode="decimal"
          {...field("limit_psig")}
        />
        <Field
          label="Par, minutes"
          inputMode="decimal"
          {...field("par_minutes")}
        />
      </Grid>
      <Field
        label="Places that can be looked at, one a line"
        isLong
        {...field("places")}
      />
      <Grid>
        <Field label="The one that leaks; empty: none" {...field("leaks_at")} />
        <Field
          label={isVacuum ? "Leak, micron in 10 min" : "Leak, psi an hour"}
          inputMode="decimal"
          {...field("leak")}
        />
        {isVacuum ? (
          <Field
            label="Free water, g"
            inputMode="decimal"
            {...field("water_g")}
          />
        ) : (
          <>
            <Field
              label="Opens only above, psig"
              inputMode="decimal"
              {...field("opens_above_psig")}
            />
            <Field
              label="Sun on the pipes, °F an hour"
              inputMode="decimal"
              {...field("sun_f_per_hour")}
            />
            <Pick
              label="The gauge sticks"
              {...field("sticks")}
              options={YES_NO}
            />
          </>
        )}
      </Grid>
      <Field
        label="The truth, as it is told at the end"
        isLong
        {...field("reveals")}
      />
      <FormEnd>Keep this drill</FormEnd>
      <span>
        <Button onPress={onDone}>Not now</Button>
      </span>
    </Form>
  );
}
