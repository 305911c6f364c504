import type { Schemas } from "../api/client";
import { useReadingInfo } from "../api/queries";
import { decimal, digitsOf, signed, withUnit } from "../app/format";
import "./compare.css";

const VERDICT: Record<Schemas["Compared"]["verdict"], string> = {
  better: "Better",
  worse: "Worse",
  changed: "Changed",
  "no-change": "No change seen",
  "not-comparable": "Not comparable",
};
const OVER_REFERENCE: Partial<typeof VERDICT> = {
  changed: "Different",
  "no-change": "No difference seen",
};

/** Its word for a reading: between two takes of a stick, or between a stick and its reference. */
export function verdict(row: Schemas["Compared"], reference: boolean): string {
  return (reference && OVER_REFERENCE[row.verdict]) || VERDICT[row.verdict];
}

/** Every reading in both takes, its change, how sure that is, and the limit. */
export function CompareTable({
  rows,
  reference = false,
}: {
  rows: Schemas["Compared"][];
  /** Whether the first of the two is what the stick is held against. */
  reference?: boolean;
}) {
  const info = useReadingInfo();
  return (
    <table className="compare-table">
      <thead>
        <tr>
          <th scope="col">Reading</th>
          <th scope="col">{reference ? "Reference" : "Before"}</th>
          <th scope="col">{reference ? "This one" : "Now"}</th>
          <th scope="col">{reference ? "Difference" : "Change"}</th>
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
                {verdict(row, reference)}
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
