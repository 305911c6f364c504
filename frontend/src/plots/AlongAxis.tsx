import { scaleLinear } from "d3-scale";
import { useMemo } from "react";
import type { Schemas } from "../api/client";
import { decimal, place, signed } from "../app/format";
import { Figure, Pressable } from "./parts";
import { mean, type Rest } from "./RestCloud";
import type { Returns } from "./ReturnRose";
import { DASH, StagePoint } from "./stage";
import "./plots.css";

type Release = Schemas["Release"];

const W = 760;
const LEFT = 118;
const LANE = 17;
const BETWEEN = 9;
const BINS = 160;
const ENDS = [270, 90] as const;

/** How long a single axis was at each place along a strip, the longest 1. */
function ink(values: number[], reach: number): number[] {
  const counts = new Array<number>(BINS).fill(0);
  for (const v of values) {
    const bin = Math.floor(((v + reach) / (2 * reach)) * BINS);
    if (bin >= 0 && bin < BINS) counts[bin] = (counts[bin] ?? 0) + 1;
  }
  const most = Math.max(1, ...counts);
  return counts.map((c) => c / most);
}

/** A single axis, magnified: where it sits untouched, and where each push to either end left it. */
export function AlongAxis({
  rests,
  returns,
  limit,
  choose,
}: {
  rests: Rest[];
  returns: Returns[];
  limit: number;
  choose?: (release: Release) => void;
}) {
  const lanes = Math.max(rests.length, returns.length, 1);
  const reach = Math.max(
    limit * 1.15,
    ...rests.map((r) => (r.deadZone ?? 0) * 1.1),
    ...rests.map((r) => (r.x.length ? Math.abs(mean(r.x)) * 1.15 : 0)),
    ...returns.flatMap((r) => r.release.map((f) => Math.abs(f.final_x) * 1.12)),
  );
  const x = scaleLinear([-reach, reach], [LEFT, W - 14]);
  const strips = useMemo(() => rests.map((r) => ink(r.x, reach)), [rests, reach]);
  const row = lanes * LANE + BETWEEN;
  const bottom = 3 * row + 2;
  const lane = (i: number, k: number) => i * row + k * LANE + LANE / 2 + 4;
  const bin = x(-reach + (2 * reach) / BINS) - x(-reach);
  return (
    <Figure
      title="Rest and returns"
      className="along"
      look="Where it sits untouched, and where each push to an end left it, along its one axis. Dashed: the dead zone it needs. Brick: limit."
      table={{
        head: ["Take", "after", "at %", "settled ms"],
        rows: [
          ...rests.flatMap((r) =>
            r.x.length ? [[r.label, "untouched", decimal(mean(r.x), 2), "–"]] : [],
          ),
          ...returns.flatMap((r) =>
            r.release.map((f) => [
              r.label,
              `pushed to its ${place(f.bearing, 1)}`,
              decimal(f.final_x, 2),
              f.settle_ms === null ? "–" : decimal(f.settle_ms, 0),
            ]),
          ),
        ],
      }}
    >
      <svg
        viewBox={`0 0 ${W} ${bottom + 18}`}
        role="group"
        aria-label="Rest and returns; numbers below"
      >
        {x.ticks(9).map((v) => (
          <g key={v}>
            <line className="grid" x1={x(v)} x2={x(v)} y1={0} y2={bottom} />
            <text className="axis" x={x(v)} y={bottom + 13} textAnchor="middle">
              {v === 0 ? "0 %" : signed(v, "%")}
            </text>
          </g>
        ))}
        <line className="gate-line" x1={x(0)} x2={x(0)} y1={0} y2={bottom} />
        {[-limit, limit].map((v) => (
          <line key={v} className="limit-ring" x1={x(v)} x2={x(v)} y1={0} y2={bottom} />
        ))}
        {rests.map(
          (r) =>
            r.deadZone !== null &&
            [-r.deadZone, r.deadZone].map((v) => (
              <line
                key={`${r.role} ${v}`}
                className={`ring-${r.role}`}
                strokeDasharray={DASH[r.role] ?? "8 2"}
                x1={x(v)}
                x2={x(v)}
                y1={0}
                y2={bottom}
              />
            )),
        )}
        {["untouched", ...ENDS.map((b) => `from its ${place(b, 1)}`)].map((words, i) => (
          <text key={words} className="axis" x={0} y={i * row + row / 2} dominantBaseline="central">
            {words}
          </text>
        ))}
        {rests.map((r, k) => (
          <g key={r.role} className={`cloud-${r.role}`}>
            {strips[k]?.map((share, i) =>
              share ? (
                <rect
                  key={i}
                  x={x(-reach) + i * bin}
                  y={lane(0, k) - 6}
                  width={bin + 0.3}
                  height={12}
                  opacity={0.25 + 0.75 * share}
                />
              ) : null,
            )}
          </g>
        ))}
        {returns.map((r, k) =>
          r.release.map((f) => (
            <Pressable
              key={`${r.role} ${f.t_s}`}
              said={`Pushed to its ${place(f.bearing, 1)}, left at ${signed(f.final_x, "%")} %`}
              press={choose && (() => choose(f))}
            >
              <StagePoint
                stage={r.role}
                x={x(f.final_x)}
                y={lane(f.bearing > 180 ? 1 : 2, k)}
                size={5}
              />
            </Pressable>
          )),
        )}
      </svg>
    </Figure>
  );
}
