import { useMemo } from "react";
import { decimal } from "../app/format";
import { Figure, Hours, roundStep } from "./parts";
import { DASH, type Role } from "./stage";
import "./plots.css";

export interface Rest {
  role: Role;
  label: string;
  x: number[];
  y: number[];
  deadZone: number | null;
}

const HALF = 100;
const CELLS = 90;

interface Cell {
  x: number;
  y: number;
  share: number;
}

/** How often the stick was seen in each cell of a grid, the fullest cell 1. */
function density(rest: Rest, scale: number): Cell[] {
  const counts = new Map<number, number>();
  const size = (2 * HALF) / CELLS;
  for (let i = 0; i < rest.x.length; i += 1) {
    const cx = Math.floor(((rest.x[i] ?? 0) * scale + HALF) / size);
    const cy = Math.floor(((rest.y[i] ?? 0) * scale + HALF) / size);
    if (cx < 0 || cy < 0 || cx >= CELLS || cy >= CELLS) continue;
    counts.set(cy * CELLS + cx, (counts.get(cy * CELLS + cx) ?? 0) + 1);
  }
  const most = Math.max(1, ...counts.values());
  return [...counts].map(([key, count]) => ({
    x: (key % CELLS) * size - HALF,
    y: HALF - (Math.floor(key / CELLS) + 1) * size,
    share: count / most,
  }));
}

/** Where the stick sits when nobody touches it, with the dead zone it needs and the limit. */
export function RestCloud({ rests, limit }: { rests: Rest[]; limit: number }) {
  const reach = Math.max(
    limit * 1.15,
    ...rests.map((r) => (r.deadZone ?? 0) * 1.1),
    ...rests.flatMap((r) => (r.x.length ? [Math.hypot(mean(r.x), mean(r.y)) * 1.15] : [])),
  );
  const scale = HALF / reach;
  const bar = roundStep(reach, 4);
  const clouds = useMemo(
    () => rests.map((r) => ({ role: r.role, cells: density(r, scale) })),
    [rests, scale],
  );
  const size = (2 * HALF) / CELLS;
  return (
    <Figure
      title="Rest cloud"
      look={
        rests.length > 1
          ? "Where each sat untouched, in the dead zone it needs. Brick: limit."
          : "Where it sits untouched, in the dead zone it needs. Brick: limit."
      }
      table={{
        head: ["Take", "x %", "y %", "dead zone needed %"],
        rows: rests.map((r) => [
          r.label,
          r.x.length ? decimal(mean(r.x), 2) : "–",
          r.y.length ? decimal(mean(r.y), 2) : "–",
          r.deadZone === null ? "–" : decimal(r.deadZone, 2),
        ]),
      }}
    >
      <svg viewBox="-118 -118 236 236" role="img" aria-label="Rest cloud; its numbers are below">
        <circle className="grid" r={HALF} />
        <path className="grid" d={`M${-HALF} 0H${HALF}M0 ${-HALF}V${HALF}`} />
        <Hours radius={HALF + 10} every={3} />
        {clouds.map(({ role, cells }) => (
          <g key={role} className={`cloud-${role}`}>
            {cells.map((c) => (
              <rect
                key={`${c.x} ${c.y}`}
                x={c.x}
                y={c.y}
                width={size}
                height={size}
                opacity={0.25 + 0.75 * c.share}
              />
            ))}
          </g>
        ))}
        <circle className="limit-ring" r={limit * scale} />
        {rests.map(
          (r) =>
            r.deadZone !== null && (
              <circle
                key={r.role}
                className={`ring-${r.role}`}
                r={r.deadZone * scale}
                strokeDasharray={DASH[r.role]}
              />
            ),
        )}
        <g className="scale-bar">
          <path d={`M${114 - bar * scale} 106H114`} />
          <text x={114 - (bar * scale) / 2} y={101} textAnchor="middle">
            {decimal(bar, bar < 1 ? 1 : 0)} %
          </text>
        </g>
      </svg>
    </Figure>
  );
}

/** The middle of values; 0 of none. */
export function mean(values: number[]): number {
  return values.reduce((sum, v) => sum + v, 0) / Math.max(values.length, 1);
}
