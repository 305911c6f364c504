import type { Schemas } from "../api/client";
import { useReadingInfo } from "../api/queries";
import { decimal, digitsOf, withUncertainty } from "../app/format";
import { type Role, StagePoint } from "../plots/stage";
import { verdict } from "./CompareTable";

function Scale({ row, before }: { row: Schemas["Compared"]; before: Role }) {
  const limit = row.limit ?? 0;
  const span = Math.max(limit * 1.35, (row.before ?? 0) * 1.12, (row.after ?? 0) * 1.12, 0.1);
  const at = (v: number) => 6 + 168 * Math.min(1, Math.max(0, v / span));
  return (
    <svg className="delta-scale" viewBox="0 0 180 20" aria-hidden="true">
      <line className="axis-line" x1={6} x2={174} y1={10} y2={10} />
      <line className="limit-line" x1={at(limit)} x2={at(limit)} y1={1} y2={19} />
      {row.before !== null && <StagePoint stage={before} x={at(row.before)} y={10} size={6} />}
      {row.after !== null && <StagePoint stage="now" x={at(row.after)} y={10} size={6} />}
    </svg>
  );
}

/** The numbers that decide, before and after on one line each. */
export function Deltas({
  found,
  before,
  reference = false,
}: {
  found: Schemas["ComparisonView"];
  before: Role;
  /** Whether the first of the two is what the stick is held against. */
  reference?: boolean;
}) {
  const was = reference ? "reference" : "was";
  const info = useReadingInfo();
  const rows = found.deciding.flatMap((p) => found.comparison.rows.filter((r) => r.path === p));
  return (
    <ul className="figures-strip deltas">
      {rows.map((row) => {
        const sure = withUncertainty(row.after ?? 0, row.u_after);
        const { label, unit } = info(row.path) ?? { label: row.path, unit: "" };
        return (
          <li key={row.path}>
            <div className="number">
              <span className="number-label">{label}</span>
              <span className="number-value">
                {row.after === null ? "–" : sure.value}
                <small>
                  {sure.plusMinus === null ? ` ${unit}` : ` ± ${sure.plusMinus} ${unit}`}
                </small>
              </span>
              <Scale row={row} before={before} />
              <span className="soft">
                {row.before === null
                  ? `${was}: not measured`
                  : `${was} ${decimal(row.before, digitsOf(unit))}`}
                {row.limit !== null && ` · limit ${decimal(row.limit, row.limit % 1 ? 1 : 0)}`}
              </span>
              <span className={`number-verdict ${row.verdict}`}>{verdict(row, reference)}</span>
            </div>
          </li>
        );
      })}
    </ul>
  );
}
