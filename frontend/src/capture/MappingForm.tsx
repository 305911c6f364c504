import Button from "@mui/material/Button";
import MenuItem from "@mui/material/MenuItem";
import TextField from "@mui/material/TextField";
import { useState } from "react";
import type { Schemas } from "../api/client";
import { NumbersTable } from "../plots/parts";
import { STEP_LABEL } from "../plots/steps";
import "./capture.css";

type Preview = Schemas["Preview"];
type Mapping = Schemas["MappingSpec"];

/** Which column is what, with a proposal to start from. */
export function MappingForm({
  preview,
  submit,
  busy,
}: {
  preview: Preview;
  submit: (mapping: Mapping) => void;
  busy: boolean;
}) {
  const { guess } = preview;
  const [m, setM] = useState({
    time: guess.time ?? "",
    time_unit: guess.time_unit,
    rate: "",
    x: guess.x ?? "",
    y: guess.y ?? "",
    step: guess.step ?? "",
    whole_step: "routine",
    lo: guess.lo === null ? "" : String(guess.lo),
    hi: guess.hi === null ? "" : String(guess.hi),
    y_positive: "up" as "up" | "down",
  });
  const pick = (name: keyof typeof m, label: string, options: [string, string][]) => (
    <TextField
      select
      label={label}
      value={m[name]}
      onChange={(e) => setM({ ...m, [name]: e.target.value })}
      slotProps={{ select: { displayEmpty: true }, inputLabel: { shrink: true } }}
    >
      {options.map(([value, text]) => (
        <MenuItem key={value} value={value}>
          {text}
        </MenuItem>
      ))}
    </TextField>
  );
  const columns = preview.columns.map((c): [string, string] => [c, c]);
  const range: [number, number] = [Number(m.lo), Number(m.hi)];
  const rate = Number(m.rate.replace(",", "."));
  const timed = m.time || rate > 0;
  const ready = timed && m.x && m.lo.trim() && m.hi.trim() && range.every(Number.isFinite);
  return (
    <div className="form">
      <NumbersTable
        caption="The first rows of the file"
        head={preview.columns}
        rows={preview.rows}
      />
      <div className="pair">
        {pick("time", "Time is", [["", "not there: its rows are counted"], ...columns])}
        {m.time ? (
          pick("time_unit", "in", [
            ["s", "seconds"],
            ["ms", "milliseconds"],
            ["us", "microseconds"],
            ["clock", "hours, minutes and seconds"],
          ])
        ) : (
          <TextField
            label="Rows a second"
            value={m.rate}
            onChange={(e) => setM({ ...m, rate: e.target.value })}
            error={m.rate.trim() !== "" && !(rate > 0)}
            slotProps={{ htmlInput: { inputMode: "decimal" } }}
          />
        )}
      </div>
      {!m.time && (
        <p className="soft">
          As the logger was set. Settling, paces and all else that takes time is as right as this
          number.
        </p>
      )}
      <div className="pair">
        {pick("x", m.y ? "x, positive to the right, is" : "x is", columns)}
        {pick("y", "y is", [["", "not there: a single axis"], ...columns])}
        {m.y &&
          pick("y_positive", "y grows", [
            ["up", "upward"],
            ["down", "downward"],
          ])}
      </div>
      <div className="pair">
        <TextField
          label="Lowest value the device gives"
          value={m.lo}
          onChange={(e) => setM({ ...m, lo: e.target.value })}
        />
        <TextField
          label="Highest value"
          value={m.hi}
          onChange={(e) => setM({ ...m, hi: e.target.value })}
        />
      </div>
      <p className="soft">
        What a controller of the kind can give, not what it gave here.{" "}
        {guess.lo === null
          ? "No usual range fits what is in the file: enter its own."
          : "This is proposed by the values in the file: check it."}
      </p>
      {preview.guess.signed && (
        <p className="remark">
          These are signed numbers that were written without their sign: they run over from one end
          to the other at rest. With a range that begins below zero they are read as they were
          meant.
        </p>
      )}
      <div className="pair">
        {pick("step", "Steps are named in", [["", "no column"], ...columns])}
        {!m.step &&
          pick("whole_step", "All of it is", [
            ["routine", "the routine: find its steps"],
            ["", "no step: keep it, measure nothing"],
            ...Object.entries(STEP_LABEL),
          ])}
      </div>
      <p className="actions">
        <Button
          variant="contained"
          disabled={!ready || busy}
          onClick={() =>
            submit({
              delimiter: preview.delimiter as Mapping["delimiter"],
              decimal_point: preview.decimal_point,
              time: m.time || null,
              time_unit: m.time_unit,
              rate_hz: m.time ? null : rate,
              x: m.x,
              y: m.y || null,
              range_x: range,
              range_y: m.y ? range : null,
              y_positive: m.y_positive,
              step: m.step || null,
              whole_step: (m.step ? null : m.whole_step || null) as Mapping["whole_step"],
              spans: null,
            })
          }
        >
          {!m.step && m.whole_step === "routine" ? "Look for its steps" : "Read it"}
        </Button>
      </p>
    </div>
  );
}
