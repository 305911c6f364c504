import { scaleLog } from "d3-scale";
import { line } from "d3-shape";
import type { Schemas } from "../api/client";
import { decimal } from "../app/format";
import { Figure } from "./parts";
import { DASH, type Role } from "./stage";
import "./plots.css";

type Point = Schemas["AllanPoint"];

export interface Ladder {
  role: Role;
  label: string;
  x: Point[];
  y: Point[] | null;
}

const W = 300;
const H = 190;
const LEFT = 38;
const TOP = 8;
const BOTTOM = 22;

const seconds = (s: number) => (s < 1 ? `${Number((s * 1000).toPrecision(1))} ms` : `${s} s`);

/** Allan deviation against averaging time: what averaging takes away, and what it does not. */
export function NoiseLadder({ ladders }: { ladders: Ladder[] }) {
  const all = ladders.flatMap((l) => [...l.x, ...(l.y ?? [])]).filter((p) => p.adev > 0);
  if (all.length < 2) return null;
  const taus = all.map((p) => p.tau_s);
  const devs = all.map((p) => p.adev);
  const x = scaleLog()
    .domain([Math.min(...taus), Math.max(...taus)])
    .range([LEFT, W - 8]);
  const y = scaleLog()
    .domain([Math.min(...devs) * 0.8, Math.max(...devs) * 1.25])
    .nice()
    .range([H - BOTTOM, TOP]);
  const draw = line<Point>(
    (p) => x(p.tau_s),
    (p) => y(p.adev),
  ).defined((p) => p.adev > 0);
  const decades = (scale: typeof x) =>
    scale.ticks().filter((v) => Math.abs(Math.log10(v) - Math.round(Math.log10(v))) < 1e-6);
  const first = ladders[0]?.x.find((p) => p.adev > 0);
  const [t0, t1] = x.domain() as [number, number];
  return (
    <Figure
      title="Noise ladder"
      look="Along the faint line: plain noise, as of Hall. Levelling off or rising: a contact that wanders."
      table={{
        head: ["averaged over s", ...ladders.flatMap((l) => [`${l.label} x %`, `${l.label} y %`])],
        rows: (ladders[0]?.x ?? []).map((p, i) => [
          decimal(p.tau_s, 3),
          ...ladders.flatMap((l) => [
            l.x[i] ? decimal(l.x[i].adev, 4) : "–",
            l.y?.[i] ? decimal(l.y[i].adev, 4) : "–",
          ]),
        ]),
      }}
    >
      <svg viewBox={`0 0 ${W} ${H}`} role="img" aria-label="Noise ladder; its numbers are below">
        {decades(y).map((v) => (
          <g key={v}>
            <line className="grid" x1={LEFT} x2={W - 8} y1={y(v)} y2={y(v)} />
            <text
              className="axis"
              x={LEFT - 4}
              y={y(v)}
              textAnchor="end"
              dominantBaseline="central"
            >
              {v}
            </text>
          </g>
        ))}
        {decades(x).map((v) => (
          <g key={v}>
            <line className="grid" x1={x(v)} x2={x(v)} y1={TOP} y2={H - BOTTOM} />
            <text className="axis" x={x(v)} y={H - 8} textAnchor="middle">
              {seconds(v)}
            </text>
          </g>
        ))}
        {first && (
          <line
            className="slope"
            x1={x(t0)}
            y1={y(first.adev)}
            x2={x(t1)}
            y2={y(first.adev * Math.sqrt(t0 / t1))}
          />
        )}
        {ladders.map((l) => (
          <g key={l.label} className={`curve-${l.role}`}>
            <path d={draw(l.x) ?? ""} strokeDasharray={DASH[l.role]} />
            {l.y && <path d={draw(l.y) ?? ""} strokeDasharray={DASH[l.role]} opacity={0.55} />}
            {(["x", "y"] as const).map((axis) => {
              const end = l[axis]?.filter((p) => p.adev > 0).at(-1);
              const other = l[axis === "x" ? "y" : "x"]?.filter((p) => p.adev > 0).at(-1);
              const above = end && (!other || end.adev >= other.adev);
              return end ? (
                <text
                  key={axis}
                  className="axis"
                  x={x(end.tau_s) - 8}
                  y={y(end.adev) + (above ? -6 : 13)}
                >
                  {axis}
                </text>
              ) : null;
            })}
          </g>
        ))}
      </svg>
    </Figure>
  );
}

/** The ladder of a take: of its Still, or of a turn's quietest place. */
export function ladderOf(
  readings: Schemas["TakeReadings"] | null | undefined,
  role: Role,
  label: string,
): Ladder[] {
  const { still, turn } = readings ?? {};
  const rest = still ?? turn?.middle ?? turn?.low ?? turn?.high;
  return rest
    ? [{ role, label, x: [...rest.adev_x], y: rest.adev_y ? [...rest.adev_y] : null }]
    : [];
}
