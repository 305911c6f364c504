import TextField from "@mui/material/TextField";
import { type Control, Controller, type FieldPath, type FieldValues } from "react-hook-form";

/** One of several, by the system's own list: quick on a tablet, and with the keyboard. */
export function Select<T extends string>({
  label,
  options,
  value,
  onChange,
  size,
}: {
  label: string;
  options: readonly (readonly [T, string])[];
  value: T;
  onChange: (value: T) => void;
  size?: "small";
}) {
  return (
    <TextField
      select
      label={label}
      value={value}
      {...(size && { size })}
      onChange={(e) => onChange(e.target.value as T)}
      slotProps={{ select: { native: true }, inputLabel: { shrink: true } }}
    >
      {options.map(([code, words]) => (
        <option key={code} value={code}>
          {words}
        </option>
      ))}
    </TextField>
  );
}

/** The entries of a table of words, as options. */
export const optionsOf = <T extends string>(words: Partial<Record<T, string>> | undefined) =>
  Object.entries(words ?? {}) as [T, string][];

/** The same, as a field of a form. */
export function SelectField<Form extends FieldValues, T extends string>({
  name,
  control,
  ...rest
}: {
  name: FieldPath<Form>;
  control: Control<Form>;
  label: string;
  options: readonly (readonly [T, string])[];
  size?: "small";
}) {
  return (
    <Controller
      name={name}
      control={control}
      render={({ field }) => <Select {...rest} value={field.value} onChange={field.onChange} />}
    />
  );
}
