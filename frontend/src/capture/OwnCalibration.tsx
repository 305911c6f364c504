import MenuItem from "@mui/material/MenuItem";
import TextField from "@mui/material/TextField";
import type { Schemas } from "../api/client";
import type { Own, Typed } from "./own";
import "./capture.css";

const PLACES = ["Low", "Centre", "High"] as const;

/** Whether what the device is plugged into has still to calibrate its numbers, and by what. */
export function OwnCalibration({
  stick,
  own,
  change,
}: {
  stick: Schemas["ModelStick"];
  own: Own;
  change: (to: Own) => void;
}) {
  const axes = stick.axes === 2 ? (["x", "y"] as const) : (["x"] as const);
  const put = (axis: "x" | "y", place: number, text: string) =>
    change({ ...own, [axis]: own[axis].map((v, i) => (i === place ? text : v)) as Typed });
  return (
    <>
      <TextField
        select
        label="Its numbers are"
        value={own.says}
        onChange={(e) => change({ ...own, says: e.target.value as Own["says"] })}
      >
        <MenuItem value="calibrated">calibrated by the device</MenuItem>
        <MenuItem value="known">calibrated by what it is plugged into, by these</MenuItem>
        <MenuItem value="unknown">calibrated by what it is plugged into, not known how</MenuItem>
      </TextField>
      {own.says === "known" &&
        axes.map((axis) => (
          <fieldset key={axis} className="holds">
            <legend>{axis === "x" ? "Left and right" : "Up and down"}</legend>
            {PLACES.map((place, i) => (
              <TextField
                key={place}
                label={place}
                inputMode="numeric"
                value={own[axis][i]}
                onChange={(e) => put(axis, i, e.target.value)}
              />
            ))}
          </fieldset>
        ))}
      <p className="hint soft">
        {own.says === "calibrated" &&
          "Many are not: a sound one then ends far short, on every side."}
        {own.says === "known" &&
          "As it is kept in the device, in the device’s own numbers. After a recalibration, what it holds then."}
        {own.says === "unknown" &&
          "Where it rests and how far it reaches is not judged; everything else is."}
      </p>
    </>
  );
}
