import Checkbox from "@mui/material/Checkbox";
import FormControlLabel from "@mui/material/FormControlLabel";
import TextField from "@mui/material/TextField";
import { Controller } from "react-hook-form";
import type { Schemas } from "../api/client";
import type { Form } from "./ModelForm";
import "./shop.css";

type Sheet = Schemas["SheetBody"];

const whole = (value: number | null | undefined) =>
  value === null || value === undefined || Number.isNaN(value) ? null : value;

/** The sheet as the server wants it: no empty lines, clicks of sticks there are. */
export function tidySheet(
  sheet: Partial<Sheet> | undefined,
  sticks: { name: string }[],
): Schemas["SheetBody"] {
  const clicks = Object.entries(sheet?.clicks ?? {}).filter(
    ([stick, button]) => whole(button) !== null && sticks.some((s) => s.name === stick),
  );
  return {
    buttons: whole(sheet?.buttons),
    triggers: whole(sheet?.triggers),
    vibration: sheet?.vibration ?? false,
    clicks: Object.fromEntries(clicks),
    items: (sheet?.items ?? []).map((i) => i.trim()).filter(Boolean),
  };
}

/** What a controller of the model has besides sticks: what a function check asks for. */
export function SheetFields({ form }: { form: Form }) {
  const sticks = form.watch("sticks");
  const number = { setValueAs: (v: unknown) => (v === "" || v === null ? null : Number(v)) };
  return (
    <fieldset className="stick-fields">
      <legend>Function check</legend>
      <div className="fields">
        <TextField label="Buttons" type="number" {...form.register("sheet.buttons", number)} />
        <TextField label="Triggers" type="number" {...form.register("sheet.triggers", number)} />
        {sticks.map((s) =>
          s.name ? (
            <TextField
              key={s.name}
              label={`Button of the ${s.name} click`}
              type="number"
              {...form.register(`sheet.clicks.${s.name}`, number)}
            />
          ) : null,
        )}
      </div>
      <Controller
        control={form.control}
        name="sheet.vibration"
        render={({ field }) => (
          <FormControlLabel
            control={
              <Checkbox
                checked={field.value ?? false}
                onChange={(e) => field.onChange(e.target.checked)}
              />
            }
            label="It vibrates"
          />
        )}
      />
      <Controller
        control={form.control}
        name="sheet.items"
        render={({ field }) => (
          <TextField
            label="To look at and listen to, one a line"
            multiline
            minRows={2}
            value={(field.value ?? []).join("\n")}
            onChange={(e) => field.onChange(e.target.value.split("\n"))}
          />
        )}
      />
    </fieldset>
  );
}
