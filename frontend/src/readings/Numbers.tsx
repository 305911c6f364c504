import type { Schemas } from "../api/client";
import { useReadingInfo } from "../api/queries";
import { decimal, withUncertainty } from "../app/format";
import type { Group } from "../plots/TurnOver";
import "./readings.css";

type View = Schemas["TakeView"];

export const VERDICT = {
  within: "Within",
  borderline: "Borderline",
  over: "Over",
  hidden: "Hidden, limit",
  unknown: "Limit",
};

/** Where a value lies against its limit, on a line that starts at zero. */
function Against({ value, u, limit }: { value: number; u: number | undefined; limit: number }) {
  const span = Math.max(limit * 1.6, value * 1.1, 0.1);
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

/** The numbers that decide, each a way to the samples it came from. */
export function Numbers({
  view,
  group,
  choose,
  chosen,
}: {
  view: View;
  group: Group;
  choose: (path: string) => void;
  chosen: string | null;
}) {
  const info = useReadingInfo();
  if (!view.readings) return null;
  return (
    <ul className="figures-strip">
      {(view.figures[group] ?? []).map((shown) => (
        <Figure
          key={shown.path}
          view={view}
          shown={shown}
          info={info(shown.path)}
          choose={choose}
          chosen={chosen === shown.path}
        />
      ))}
    </ul>
  );
}

function Figure({
  view,
  shown: { path, label, beside, beside_label: besideLabel, note },
  info,
  choose,
  chosen,
}: {
  view: View;
  shown: Schemas["Figure"];
  info: Schemas["ReadingInfo"] | undefined;
  choose: (path: string) => void;
  chosen: boolean;
}) {
  const value = view.values[path];
  const against = view.limits[path];
  const u = view.readings?.uncertainty[path];
  const counted = info?.unit === "";
  const sure = withUncertainty(value ?? 0, u);
  const next = beside ? view.values[beside] : undefined;
  const figure = counted ? decimal(value ?? 0, 0) : sure.value;
  const unit = counted ? "" : (info?.unit ?? "");
  const after = sure.plusMinus === null ? "" : ` ± ${sure.plusMinus}`;
  const verdict =
    value === undefined
      ? ""
      : against
        ? `${VERDICT[against.verdict]} ${decimal(against.limit, against.limit % 1 ? 1 : 0)}`
        : note;
  return (
    <li>
      <button
        type="button"
        className="number"
        disabled={value === undefined}
        aria-pressed={chosen}
        title={info?.tells}
        onClick={() => choose(path)}
      >
        <span className="number-label">{label}</span>
        <span className="number-value">
          {value === undefined ? "–" : figure}
          <small>{value === undefined ? " not measured" : `${after} ${unit}`}</small>
        </span>
        {value !== undefined && against && !counted && (
          <Against value={value} u={u} limit={against.limit} />
        )}
        <span className={`number-verdict ${against?.verdict ?? ""}`}>
          {verdict}
          {beside &&
            next !== undefined &&
            `${verdict && " · "}${besideLabel} ${decimal(next, Number.isInteger(next) ? 0 : 1)}`}
        </span>
      </button>
    </li>
  );
}
