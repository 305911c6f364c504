import Button from "@mui/material/Button";
import MenuItem from "@mui/material/MenuItem";
import TextField from "@mui/material/TextField";
import { Controller } from "react-hook-form";
import type { Form } from "./ModelForm";
import "./shop.css";

const KINDS = [
  ["sprung-2", "Two axes, with a spring"],
  ["sprung-1", "One axis, with a spring"],
  ["free-1", "One axis, no spring"],
] as const;
const GATES = [
  ["round", "Round gate"],
  ["square", "Square gate"],
  ["octagon", "Octagonal gate"],
] as const;
const SENSORS = [
  ["potentiometer", "Potentiometer"],
  ["hall", "Hall"],
] as const;
const SIDES = [
  ["left", "Left"],
  ["right", "Right"],
  ["top", "Top"],
  ["bottom", "Bottom"],
  ["", "Not known"],
] as const;

/** A choice of named values. */
function Select({
  label,
  value,
  options,
  choose,
}: {
  label: string;
  value: string;
  options: readonly (readonly [string, string])[];
  choose: (value: string) => void;
}) {
  return (
    <TextField select label={label} value={value} onChange={(e) => choose(e.target.value)}>
      {options.map(([id, name]) => (
        <MenuItem key={id} value={id}>
          {name}
        </MenuItem>
      ))}
    </TextField>
  );
}

/** One stick, lever or paddle of a model. */
export function StickFields({
  form,
  index,
  remove,
}: {
  form: Form;
  index: number;
  remove: (() => void) | undefined;
}) {
  const at = `sticks.${index}` as const;
  const { axes, sprung, name } = form.watch(at);
  const set = (kind: string) => {
    form.setValue(`${at}.axes`, kind === "sprung-2" ? 2 : 1);
    form.setValue(`${at}.sprung`, kind !== "free-1");
    if (kind === "sprung-2" && form.getValues(`${at}.sensors`).length < 2) {
      form.setValue(`${at}.sensors.1`, {
        axis: "y",
        kind: "potentiometer",
        side: "right",
        ohms: null,
      });
    }
  };
  return (
    <fieldset className="stick-fields">
      <legend>
        {name || "A stick"}
        {remove && (
          <Button size="small" onClick={remove}>
            Take it away
          </Button>
        )}
      </legend>
      <div className="fields">
        <TextField label="Name, such as left" {...form.register(`${at}.name`)} />
        <Select
          label="Kind"
          value={`${sprung ? "sprung" : "free"}-${axes}`}
          options={KINDS}
          choose={set}
        />
        {axes === 2 && (
          <Controller
            control={form.control}
            name={`${at}.gate`}
            render={({ field }) => (
              <Select label="Gate" value={field.value} options={GATES} choose={field.onChange} />
            )}
          />
        )}
      </div>
      <div className="fields">
        <TextField
          label="Footprint of its module"
          helperText="The holes it sits in, by your own word"
          {...form.register(`${at}.footprint`)}
        />
      </div>
      {(["x", "y"] as const).slice(0, axes).map((axis, i) => (
        <div className="fields" key={axis}>
          <Controller
            control={form.control}
            name={`${at}.sensors.${i}.kind`}
            render={({ field }) => (
              <Select
                label={`Sensor of ${axis}`}
                value={field.value ?? "potentiometer"}
                options={SENSORS}
                choose={field.onChange}
              />
            )}
          />
          <Controller
            control={form.control}
            name={`${at}.sensors.${i}.side`}
            render={({ field }) => (
              <Select
                label="Its housing sits"
                value={field.value ?? ""}
                options={SIDES}
                choose={field.onChange}
              />
            )}
          />
          {form.watch(`${at}.sensors.${i}.kind`) === "potentiometer" && (
            <TextField
              label="Nominal ohms"
              type="number"
              {...form.register(`${at}.sensors.${i}.ohms`, {
                setValueAs: (v) => (v === "" || v === null ? null : Number(v)),
              })}
            />
          )}
        </div>
      ))}
    </fieldset>
  );
}
