import { ChooseSeveral } from "../app/Choose";
import "./takein.css";

const HOURS = [12, 1, 2, 3, 4, 5, 6, 7, 8, 9, 10, 11];

/** Toward which clock hours, chosen around a dial. */
export function ClockHours({
  value,
  onChange,
}: {
  value: readonly number[];
  onChange: (hours: number[]) => void;
}) {
  return (
    <fieldset className="choose">
      <legend>Goes toward</legend>
      <div className="clock">
        {HOURS.map((hour) => {
          const angle = (hour * Math.PI) / 6;
          const place = {
            left: `${50 + 41 * Math.sin(angle)}%`,
            top: `${50 - 41 * Math.cos(angle)}%`,
          };
          const chosen = value.includes(hour);
          return (
            <label key={hour} className={chosen ? "chosen" : ""} style={place}>
              <input
                type="checkbox"
                aria-label={`${hour} o’clock`}
                checked={chosen}
                onChange={(e) =>
                  onChange(e.target.checked ? [...value, hour] : value.filter((h) => h !== hour))
                }
              />
              <span aria-hidden="true">{hour}</span>
            </label>
          );
        })}
      </div>
    </fieldset>
  );
}

/** Toward which end of a single axis, which lies along the level hours of the dial. */
export function AxisEnds({
  value,
  onChange,
}: {
  value: readonly number[];
  onChange: (hours: number[]) => void;
}) {
  return (
    <ChooseSeveral
      label="Goes toward"
      options={[
        ["9", "Low end"],
        ["3", "High end"],
      ]}
      value={value.map(String)}
      onChange={(hours) => onChange(hours.map(Number))}
    />
  );
}
