import type { Schemas } from "../api/client";
import { useReadingInfo } from "../api/queries";
import { decimal, withUncertainty } from "../app/format";
import type { Group } from "../plots/TurnOver";

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

interface Shown {
  path: string;
  label?: string;
  beside?: { path: string; label: string };
}

/** The worse of the two axes. */
function worse(view: View, x: string, y: string): string {
  return (view.values[y] ?? -1) > (view.values[x] ?? -1) ? y : x;
}

/** Jitter; or spikes, where they are the farther over their limit. */
function restless(view: View): Shown {
  const jitter = worse(view, "still.jitter_x", "still.jitter_y");
  const spikes = worse(view, "still.spikes_per_min_x", "still.spikes_per_min_y");
  const share = (path: string) =>
    (view.values[path] ?? 0) / (view.limits[path]?.limit || Number.POSITIVE_INFINITY);
  return share(spikes) > Math.max(1, share(jitter))
    ? { path: spikes, label: "Spikes" }
    : { path: jitter, label: "Jitter" };
}

/** The numbers that decide, for what the page shows now; a paddle has its own. */
function shownOf(view: View, group: Group): Shown[] {
  if (view.readings?.turn) {
    return [
      { path: "turn.jitter" },
      { path: "turn.track_noise_max", beside: { path: "turn.rough_spots", label: "rough spots" } },
      { path: "turn.dead_spans" },
      { path: "turn.reach_low" },
      { path: "turn.reach_high" },
    ];
  }
  if (group === "track") {
    const track = (name: string) => worse(view, `crossing.x.${name}`, `crossing.y.${name}`);
    const rough = track("track_noise_max");
    return [
      {
        path: rough,
        beside: {
          path: rough.replace("track_noise_max", "rough_spots"),
          label: "rough spots",
        },
      },
      { path: track("dead_spans") },
      { path: "hold.sag" },
      { path: "hold.dropouts_per_min" },
      { path: worse(view, "still.jitter_x", "still.jitter_y"), label: "Jitter" },
    ];
  }
  if (view.values["let_go.return_max"] === undefined && view.values["still.wander"] !== undefined) {
    return [
      { path: "still.rest_offset" },
      { path: "still.wander" },
      { path: worse(view, "still.creep_x", "still.creep_y") },
      { path: worse(view, "still.jitter_x", "still.jitter_y"), label: "Jitter" },
      { path: worse(view, "still.spikes_per_min_x", "still.spikes_per_min_y") },
    ];
  }
  return [
    { path: "composite.dead_zone_needed" },
    { path: "composite.dead_zone_after_recentring" },
    { path: "let_go.return_spread" },
    {
      path: "rim.circularity_error",
      beside: { path: "composite.shape_after_recalibration", label: "shape" },
    },
    restless(view),
  ];
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
      {shownOf(view, group).map((shown) => (
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
  shown: { path, label, beside },
  info,
  choose,
  chosen,
}: {
  view: View;
  shown: Shown;
  info: Schemas["ReadingInfo"] | undefined;
  choose: (path: string) => void;
  chosen: boolean;
}) {
  const value = view.values[path];
  const against = view.limits[path];
  const u = view.readings?.uncertainty[path];
  const counted = info?.unit === "";
  const sure = withUncertainty(value ?? 0, u);
  const next = beside ? view.values[beside.path] : undefined;
  const shown = counted ? decimal(value ?? 0, 0) : sure.value;
  const unit = counted ? "" : (info?.unit ?? "");
  const after = sure.plusMinus === null ? "" : ` ± ${sure.plusMinus}`;
  const verdict =
    value === undefined
      ? ""
      : against
        ? `${VERDICT[against.verdict]} ${decimal(against.limit, against.limit % 1 ? 1 : 0)}`
        : path === "composite.dead_zone_after_recentring"
          ? "at best"
          : "";
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
        <span className="number-label">{label ?? info?.label}</span>
        <span className="number-value">
          {value === undefined ? "–" : shown}
          <small>{value === undefined ? " not measured" : `${after} ${unit}`}</small>
        </span>
        {value !== undefined && against && !counted && (
          <Against value={value} u={u} limit={against.limit} />
        )}
        <span className={`number-verdict ${against?.verdict ?? ""}`}>
          {verdict}
          {beside &&
            next !== undefined &&
            `${verdict && " · "}${beside.label} ${decimal(next, beside.label === "shape" ? 1 : 0)}`}
        </span>
      </button>
    </li>
  );
}
