import { scaleLinear } from "d3-scale";
import type { Schemas } from "../api/client";
import { decimal } from "../app/format";

type Calibration = Schemas["Calibration"];
type CalibrationRead = Schemas["CalibrationRead"];

const WIDTH = 140;
const ROWS = [
  ["dead_zone", "dead zone needed"],
  ["circularity", "circularity error"],
  ["reach", "shortest reach"],
] as const;

/** What it reads now, what it would then, and what it did: each reading on one axis. */
export function Forecasts({
  held,
  now,
  after,
}: {
  held: Calibration;
  now: CalibrationRead | null;
  after: CalibrationRead | null;
}) {
  return (
    <table className="calibration-forecasts">
      <thead>
        <tr>
          <th scope="col">%</th>
          <th scope="col">
            <i className="key-now" /> now
          </th>
          <th scope="col">
            <i className="key-to-come" /> forecast
          </th>
          <th scope="col">
            <i className="key-then" /> after
          </th>
          <th scope="col" aria-label="drawn" />
        </tr>
      </thead>
      <tbody>
        {ROWS.map(([key, says]) => {
          const values = [now?.[key] ?? null, held.forecast[key] ?? null, after?.[key] ?? null];
          if (values.every((v) => v === null)) return null;
          return (
            <tr key={key}>
              <th scope="row">{says}</th>
              <td>{valueOr(values[0], "not measured")}</td>
              <td>{valueOr(values[1], "not seen")}</td>
              <td>{valueOr(values[2], "not yet")}</td>
              <td>
                <Drawn values={values} label={says} />
              </td>
            </tr>
          );
        })}
      </tbody>
    </table>
  );
}

const valueOr = (value: number | null | undefined, otherwise: string) =>
  value == null ? <span className="soft">{otherwise}</span> : decimal(value, 1);

function Drawn({ values, label }: { values: (number | null)[]; label: string }) {
  const present = values.filter((v): v is number => v !== null);
  if (!present.length) return null;
  const most = Math.max(...present, 1);
  const x = scaleLinear()
    .domain([Math.min(0, ...present), most * 1.08])
    .range([6, WIDTH - 6]);
  const [now, forecast, after] = values;
  return (
    <svg viewBox={`0 0 ${WIDTH} 24`} className="calibration-drawn" role="img" aria-label={label}>
      <line className="axis-line" x1={6} x2={WIDTH - 6} y1={12} y2={12} />
      {forecast != null && <path className="to-come" d={`M${x(forecast)} 4l7 12h-14z`} />}
      {now != null && <circle className="stage-received" cx={x(now)} cy={12} r={5} />}
      {after != null && <rect className="stage-now" x={x(after) - 4} y={8} width={8} height={8} />}
    </svg>
  );
}
