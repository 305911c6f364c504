import { useQuery } from "@tanstack/react-query";
import type { Schemas } from "../api/client";
import { catalogueQuery } from "../api/queries";
import { decimal, digitsOf, withUnit } from "../app/format";

/** Every reading of a take, with its uncertainty and its limit. */
export function AllReadings({
  view,
  choose,
}: {
  view: Schemas["TakeView"];
  choose: (path: string) => void;
}) {
  const { data: catalogue } = useQuery(catalogueQuery);
  const readings = view.readings;
  if (!readings || !catalogue) return null;
  return (
    <table className="all-readings">
      <thead>
        <tr>
          <th scope="col">Reading</th>
          <th scope="col">Value</th>
          <th scope="col">±</th>
          <th scope="col">Limit</th>
          <th scope="col">What it tells</th>
        </tr>
      </thead>
      <tbody>
        {catalogue.readings
          .filter((r) => r.axes.includes(readings.recording.axes.length))
          .map((r) => {
            const value = view.values[r.path];
            const u = readings.uncertainty[r.path];
            const against = view.limits[r.path];
            return (
              <tr key={r.path}>
                <th scope="row">
                  <button
                    type="button"
                    className="plain link"
                    disabled={value === undefined}
                    onClick={() => choose(r.path)}
                  >
                    {r.label}
                  </button>
                </th>
                <td className="figures">{withUnit(value, r.unit)}</td>
                <td className="figures soft">
                  {u === undefined ? "–" : decimal(2 * u, digitsOf(r.unit))}
                </td>
                <td className="figures" title={against?.reason}>
                  {against ? `${decimal(against.limit)} ${against.verdict}` : "–"}
                </td>
                <td className="soft">{r.tells}</td>
              </tr>
            );
          })}
      </tbody>
    </table>
  );
}
