import type { Schemas } from "../api/client";
import { useReadingInfo } from "../api/queries";
import { decimal, digitsOf, signed, withUnit } from "../app/format";
import "./compare.css";

export const VERDICT: Record<Schemas["Compared"]["verdict"], string> = {
  better: "Better",
  worse: "Worse",
  changed: "Changed",
  "no-change": "No change seen",
  "not-comparable": "Not comparable",
};

/** Every reading in both takes, its change, how sure that is, and the limit. */
export function CompareTable({
  rows,
  first = "Before",
  second = "Now",
}: {
  rows: Schemas["Compared"][];
  first?: string;
  second?: string;
}) {
  const info = useReadingInfo();
  return (
    <table className="compare-table">
      <thead>
        <tr>
          <th scope="col">Reading</th>
          <th scope="col">{first}</th>
          <th scope="col">{second}</th>
          <th scope="col">Change</th>
          <th scope="col">±</th>
          <th scope="col">Verdict</th>
          <th scope="col">Limit</th>
        </tr>
      </thead>
      <tbody>
        {rows.map((row) => {
          const r = info(row.path);
          const unit = r?.unit ?? "%";
          const digits = digitsOf(unit);
          const absent = row.before === null && row.after === null;
          return (
            <tr key={row.path} className={`${r?.headline ? "main" : ""} ${absent ? "absent" : ""}`}>
              <th scope="row" title={r?.tells}>
                {r?.label ?? row.path}
              </th>
              <td>{withUnit(row.before, unit)}</td>
              <td>{withUnit(row.after, unit)}</td>
              <td>{row.change === null ? "–" : signed(row.change, unit)}</td>
              <td className="soft">
                {row.u_change === null ? "–" : decimal(2 * row.u_change, digits)}
              </td>
              <td className={`words ${row.verdict}`}>
                {VERDICT[row.verdict]}
                {row.why && <span className="soft">: {row.why}</span>}
              </td>
              <td className="limit-cell" title={row.limit_reason ?? undefined}>
                {row.limit === null ? "" : `${decimal(row.limit, digits)} ${row.after_limit}`}
              </td>
            </tr>
          );
        })}
      </tbody>
    </table>
  );
}
