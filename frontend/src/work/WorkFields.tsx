import Checkbox from "@mui/material/Checkbox";
import FormControlLabel from "@mui/material/FormControlLabel";
import TextField from "@mui/material/TextField";
import type { Schemas } from "../api/client";
import { numberOf } from "../app/format";
import "./work.css";

export type WorkField = Schemas["WorkField"];
/** As it is typed: numbers are words until they are sent. */
export type Typed = Record<string, string | boolean>;
type Details = NonNullable<Schemas["NewWork"]["details"]>;

/** What is sent of it: nothing that is empty. */
export function sent(fields: readonly WorkField[], typed: Typed): Details {
  const details: Details = {};
  for (const f of fields) {
    const value = typed[f.code];
    if (value === undefined || value === "" || value === false) continue;
    details[f.code] = f.kind === "number" ? numberOf(String(value)) : value;
  }
  return details;
}

export function typedFrom(details: Record<string, unknown>): Typed {
  return Object.fromEntries(
    Object.entries(details).map(([k, v]) => [k, typeof v === "boolean" ? v : String(v)]),
  );
}

/** The fields that matter for a remedy. wrong: what the server said of them. */
export function WorkFields({
  fields,
  typed,
  change,
  wrong,
}: {
  fields: readonly WorkField[];
  typed: Typed;
  change: (code: string, value: string | boolean) => void;
  wrong: Record<string, string>;
}) {
  return (
    <div className="work-fields">
      {fields.map((f) => (
        <Field
          key={f.code}
          field={f}
          value={typed[f.code] ?? (f.kind === "yes" ? false : "")}
          change={(value) => change(f.code, value)}
          wrong={wrong[`details.${f.code}`]}
        />
      ))}
    </div>
  );
}

function Field({
  field: f,
  value,
  change,
  wrong,
}: {
  field: WorkField;
  value: string | boolean;
  change: (value: string | boolean) => void;
  wrong: string | undefined;
}) {
  if (f.kind === "yes") {
    return (
      <FormControlLabel
        control={<Checkbox checked={value === true} onChange={(_, on) => change(on)} />}
        label={f.label}
      />
    );
  }
  const chosen = f.choices.find((c) => c.code === value);
  const typed = f.kind === "number" && value !== "" ? numberOf(String(value)) : null;
  const outside = typed !== null && !(typed >= f.least && typed <= f.most);
  const bounds = `${f.least} to ${f.most}${f.unit ? ` ${f.unit}` : ""}`;
  return (
    <TextField
      label={f.unit && f.kind === "number" ? `${f.label}, ${f.unit}` : f.label}
      value={value}
      onChange={(e) => change(e.target.value)}
      type={f.kind === "date" ? "date" : "text"}
      select={f.kind === "choice"}
      error={outside || wrong !== undefined}
      helperText={wrong ?? (outside ? bounds : (chosen?.when ?? "") || f.hint || undefined)}
      slotProps={{
        select: { native: true },
        inputLabel: f.kind === "date" || f.kind === "choice" ? { shrink: true } : {},
      }}
    >
      {f.kind === "choice" && (
        <>
          <option value="">not said</option>
          {f.choices.map((c) => (
            <option key={c.code} value={c.code}>
              {c.label}
            </option>
          ))}
        </>
      )}
    </TextField>
  );
}
