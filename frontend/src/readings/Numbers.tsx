import type { Schemas } from "../api/client";
import { useReadingInfo } from "../api/queries";
import { decimal, withUncertainty } from "../app/format";
import { readingOf } from "./evidence";

const VERDICT = { within: "Within", borderline: "Borderline", over: "Over", unknown: "Limit" };

/** Where a value lies against its limit, on a line that starts at zero. */
function Against({ value, u, limit }: { value: number; u: number | undefined; limit: number }) {
  const span = Math.max(limit * 1.6, value * 1.1);
  const at = (v: number) => 4 + 152 * Math.min(1, Math.max(0, v / span));
  return (
    <svg className="against" viewBox="0 0 160 18" aria-hidden="true">
      <line className="axis-line" x1={4} x2={156} y1={9} y2={9} />
      <line className="limit-line" x1={at(limit)} x2={at(limit)} y1={1} y2={17} />
      {u !== undefined && (
        <line className="u-line" x1={at(value - 2 * u)} x2={at(value + 2 * u)} y1={9} y2={9} />
      )}
      <rect className="value-mark" x={at(value) - 4} y={5} width={8} height={8} />
    </svg>
  );
}

interface Shown {
  path: string;
  label?: string;
  beside?: { path: string; label: string };
}

/** The worse of the two axes' jitter. */
function worseAxis(readings: Schemas["TakeReadings"]): string {
  const x = readings.still?.jitter_x ?? 0;
  return (readings.still?.jitter_y ?? 0) > x ? "still.jitter_y" : "still.jitter_x";
}

/** The numbers that decide, each a way to the samples it came from. */
export function Numbers({
  view,
  choose,
  chosen,
}: {
  view: Schemas["TakeView"];
  choose: (path: string) => void;
  chosen: string | null;
}) {
  const info = useReadingInfo();
  const readings = view.readings;
  if (!readings) return null;
  const shown: Shown[] = [
    { path: "composite.dead_zone_needed" },
    { path: "composite.dead_zone_after_recentring" },
    { path: "let_go.return_spread" },
    { path: "rim.circularity_error", beside: { path: "rim.roundness_lsc", label: "shape" } },
    { path: worseAxis(readings), label: "Jitter, worse axis" },
  ];
  return (
    <ul className="figures-strip">
      {shown.map(({ path, label, beside }) => {
        const reading = info(path);
        const value = readingOf(path, readings);
        const against = view.limits[path];
        const u = readings.uncertainty[path];
        const sure = withUncertainty(value ?? 0, u);
        const next = beside ? readingOf(beside.path, readings) : null;
        return (
          <li key={path}>
            <button
              type="button"
              className="number"
              disabled={value === null}
              aria-pressed={chosen === path}
              title={reading?.tells}
              onClick={() => choose(path)}
            >
              <span className="number-label">{label ?? reading?.label}</span>
              <span className="number-value">
                {value === null ? "–" : sure.value}
                <small>
                  {value === null
                    ? " not measured"
                    : `${sure.plusMinus === null ? "" : ` ± ${sure.plusMinus}`} ${reading?.unit ?? ""}`}
                </small>
              </span>
              {value !== null && against && <Against value={value} u={u} limit={against.limit} />}
              <span className={`number-verdict ${against?.verdict ?? ""}`}>
                {value === null || !against
                  ? next === null && value !== null
                    ? "at best"
                    : ""
                  : `${VERDICT[against.verdict]} ${decimal(against.limit, against.limit % 1 ? 1 : 0)}`}
                {beside && next !== null && ` · ${beside.label} ${decimal(next)}`}
              </span>
            </button>
          </li>
        );
      })}
    </ul>
  );
}
