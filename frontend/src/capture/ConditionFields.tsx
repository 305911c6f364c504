import MenuItem from "@mui/material/MenuItem";
import TextField from "@mui/material/TextField";
import type { Schemas } from "../api/client";
import "./capture.css";

export type Conditions = Schemas["Conditions"];

const CHOICES = {
  calibration: [
    ["factory", "Factory"],
    ["recalibrated", "Recalibrated"],
    ["unknown", "Unknown"],
  ],
  power: [
    ["cable", "Cable"],
    ["battery", "Battery"],
    ["unknown", "Unknown"],
  ],
  shell: [
    ["closed", "Closed"],
    ["open", "Open"],
    ["unknown", "Unknown"],
  ],
} as const;

const LABEL = { calibration: "Calibration", power: "Power", shell: "Shell" } as const;

/** How things are while it is measured; two takes compare best where nothing of it changed. */
export function ConditionFields({
  value,
  change,
}: {
  value: Conditions;
  change: (change: Partial<Conditions>) => void;
}) {
  return (
    <fieldset className="conditions">
      <legend>As it is now</legend>
      {(Object.keys(CHOICES) as (keyof typeof CHOICES)[]).map((key) => (
        <TextField
          key={key}
          select
          label={LABEL[key]}
          value={value[key]}
          onChange={(e) => change({ [key]: e.target.value })}
        >
          {CHOICES[key].map(([id, label]) => (
            <MenuItem key={id} value={id}>
              {label}
            </MenuItem>
          ))}
        </TextField>
      ))}
      <TextField
        label="Bench role"
        value={value.role}
        placeholder="such as morning bench"
        onChange={(e) => change({ role: e.target.value })}
      />
    </fieldset>
  );
}
