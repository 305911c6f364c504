import Button from "@mui/material/Button";
import MenuItem from "@mui/material/MenuItem";
import TextField from "@mui/material/TextField";
import { useQuery } from "@tanstack/react-query";
import { Controller, useForm } from "react-hook-form";
import type { Schemas } from "../api/client";
import type { Problem } from "../api/problem";
import { partKindsQuery } from "../api/queries";
import { fieldErrorsOf } from "../app/fieldErrors";
import { Trouble } from "../app/parts";

type Facts = Schemas["FactsBody"];

export const BLANK_PART: Facts = {
  name: "",
  kind: "module",
  footprint: "",
  ohms: null,
  tolerance: null,
  sensor: "",
  place: "",
  price: null,
  reorder_at: 0,
  note: "",
};

const SENSORS = [
  ["", "none, or not known"],
  ["potentiometer", "Potentiometer"],
  ["hall", "Hall"],
] as const;

/** An empty field of a number is none. */
const number = { setValueAs: (v: unknown) => (v === "" || v === null ? null : Number(v)) };

/** What a part is; how many there are is said by moving them. */
export function PartForm({
  facts,
  keep,
  busy,
  error,
  leave,
}: {
  facts: Facts;
  keep: (facts: Facts) => void;
  busy: boolean;
  error: Problem | null;
  leave: () => void;
}) {
  const { data: info } = useQuery(partKindsQuery);
  const { register, control, handleSubmit } = useForm<Facts>({ defaultValues: facts });
  const fieldErrors = fieldErrorsOf(error);
  const choice = (
    name: "kind" | "sensor",
    label: string,
    options: (readonly [string, string])[],
  ) => (
    <Controller
      name={name}
      control={control}
      render={({ field }) => (
        <TextField select size="small" label={label} {...field}>
          {options.map(([value, text]) => (
            <MenuItem key={value} value={value}>
              {text}
            </MenuItem>
          ))}
        </TextField>
      )}
    />
  );
  return (
    <form className="form part-form" onSubmit={handleSubmit((typed) => keep(tidy(typed)))}>
      <TextField
        label="Name, as on the bag"
        autoFocus
        {...register("name")}
        {...fieldErrors.of("name", "")}
      />
      <div className="part-fields">
        {choice(
          "kind",
          "What it is",
          (info?.kinds ?? []).map((k) => [k.kind, k.label] as const),
        )}
        {choice("sensor", "Sensor", [...SENSORS])}
        <TextField
          size="small"
          label="Footprint"
          {...register("footprint")}
          {...fieldErrors.of("footprint", "The holes it fits, by your own word")}
        />
        <TextField
          size="small"
          label="Value, Ω"
          {...register("ohms", number)}
          {...fieldErrors.of("ohms", "As it is sold")}
        />
        <TextField
          size="small"
          label="Tolerance, ±%"
          {...register("tolerance", number)}
          {...fieldErrors.of("tolerance", "")}
        />
        <TextField size="small" label="Where it lies" {...register("place")} />
        <TextField
          size="small"
          label="Price of one"
          {...register("price", number)}
          {...fieldErrors.of("price", "")}
        />
        <TextField
          size="small"
          label="Order again at"
          {...register("reorder_at", { setValueAs: (v) => Number(v || 0) })}
          {...fieldErrors.of("reorder_at", "So few left, free; 0 for never")}
        />
      </div>
      <TextField label="Note" multiline maxRows={4} {...register("note")} />
      <Trouble error={error} />
      <p className="actions">
        <Button type="submit" variant="contained" disabled={busy}>
          Keep
        </Button>
        <Button onClick={leave}>Leave it</Button>
      </p>
    </form>
  );
}

/** Numbers that are none are sent as none, so that the server says which field is wrong. */
function tidy(facts: Facts): Facts {
  const or = (v: number | null | undefined) => (Number.isNaN(v) ? ("?" as never) : (v ?? null));
  return {
    ...facts,
    ohms: or(facts.ohms),
    tolerance: or(facts.tolerance),
    price: or(facts.price),
    reorder_at: or(facts.reorder_at) ?? 0,
  };
}
