import Button from "@mui/material/Button";
import TextField from "@mui/material/TextField";
import { type UseFormReturn, useFieldArray, useForm } from "react-hook-form";
import type { Schemas } from "../api/client";
import { Problem } from "../api/problem";
import { Trouble } from "../app/parts";
import { LimitFields } from "./LimitFields";
import { SheetFields, tidySheet } from "./SheetFields";
import { StickFields } from "./StickFields";
import "./shop.css";

export type ModelBody = Schemas["ModelBody"];
export type Form = UseFormReturn<ModelBody>;

const stick = (name: string): ModelBody["sticks"][number] => ({
  name,
  axes: 2,
  sprung: true,
  gate: "round",
  footprint: "",
  sensors: [
    { axis: "x", kind: "potentiometer", side: "bottom", ohms: 10_000 },
    { axis: "y", kind: "potentiometer", side: "right", ohms: 10_000 },
  ],
});

export const BLANK: ModelBody = {
  name: "",
  sticks: [stick("left"), stick("right")],
  bits: 10,
  rate_hz: 250,
  lo: 0,
  hi: 1023,
  limits: {},
  note: "",
  sheet: { buttons: null, triggers: null, vibration: false, clicks: {}, items: [] },
};

/** What is typed, as the server wants it: a stick of one axis has one sensor, Hall has no ohms. */
function tidy(body: ModelBody): ModelBody {
  return {
    ...body,
    sticks: body.sticks.map((s) => ({
      ...s,
      sensors: s.sensors.slice(0, s.axes).map((n) => ({
        ...n,
        ohms: n.kind === "hall" || !n.ohms ? null : n.ohms,
      })),
    })),
    sheet: tidySheet(body.sheet, body.sticks),
    limits: Object.fromEntries(
      Object.entries(body.limits ?? {}).flatMap(([path, grades]) => {
        const set = Object.entries(grades).filter(([, v]) => v !== null && !Number.isNaN(v));
        return set.length ? [[path, Object.fromEntries(set)]] : [];
      }),
    ),
  };
}

export function ModelForm({
  model,
  keep,
  busy,
  error,
}: {
  model: ModelBody;
  keep: (body: ModelBody) => void;
  busy: boolean;
  error: Error | null;
}) {
  const form = useForm<ModelBody>({ defaultValues: model });
  const sticks = useFieldArray({ control: form.control, name: "sticks" });
  const wrong = error instanceof Problem ? error.fields : {};
  const number = { valueAsNumber: true } as const;
  return (
    <form
      className="form wide-form"
      onSubmit={form.handleSubmit((body) => keep(tidy(body)))}
      noValidate
    >
      <div className="fields">
        <TextField
          label="Name"
          autoComplete="off"
          error={"name" in wrong}
          helperText={wrong.name}
          {...form.register("name")}
        />
        <TextField
          label="Bits"
          type="number"
          error={"bits" in wrong}
          {...form.register("bits", number)}
        />
        <TextField
          label="Lowest value"
          type="number"
          error={"lo" in wrong}
          {...form.register("lo", number)}
        />
        <TextField
          label="Highest value"
          type="number"
          error={"hi" in wrong}
          helperText={wrong.hi}
          {...form.register("hi", number)}
        />
        <TextField
          label="Samples a second"
          type="number"
          error={"rate_hz" in wrong}
          {...form.register("rate_hz", number)}
        />
      </div>
      {sticks.fields.map((field, i) => (
        <StickFields
          key={field.id}
          form={form}
          index={i}
          remove={sticks.fields.length > 1 ? () => sticks.remove(i) : undefined}
        />
      ))}
      <p>
        <Button size="small" onClick={() => sticks.append(stick(""))}>
          Another stick
        </Button>
      </p>
      <SheetFields form={form} />
      <LimitFields form={form} />
      <TextField label="Notes" multiline minRows={2} {...form.register("note")} />
      <Trouble error={error} />
      <p className="actions">
        <Button type="submit" variant="contained" disabled={busy}>
          Keep the model
        </Button>
      </p>
    </form>
  );
}
