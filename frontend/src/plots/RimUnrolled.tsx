import { scaleLinear } from "d3-scale";
import { line } from "d3-shape";
import { decimal } from "../app/format";
import { type Gate, GateOutline, gateRadius } from "./gate";
import { Figure, Levels } from "./parts";
import { DASH, type Role } from "./stage";
import "./plots.css";

export interface RimCurve {
  role: Role;
  label: string;
  radius: number[];
}

const W = 300;
const H = 190;
const LEFT = 30;
const TOP = 10;
const BOTTOM = 20;

/** The rim's deviation from its gate by clock hour, magnified, and a small round one beside it. */
export function RimUnrolled({ rims, gate }: { rims: RimCurve[]; gate: Gate }) {
  const bins = rims[0]?.radius.length ?? 72;
  const bearing = (i: number) => (i * 360) / bins;
  const off = (r: RimCurve) =>
    [...r.radius, r.radius[0] ?? 0].map((v, i) => v - gateRadius(gate, bearing(i % bins)));
  const all = rims.flatMap(off);
  const low = Math.min(-2, ...all);
  const high = Math.max(2, ...all);
  const y = scaleLinear()
    .domain([low, high])
    .nice(6)
    .range([H - BOTTOM, TOP]);
  const x = scaleLinear()
    .domain([0, 360])
    .range([LEFT, W - 6]);
  const draw = line<number>(
    (_, i) => x(bearing(i)),
    (v) => y(v),
  );
  const round = line<number>(
    (v, i) => v * Math.sin((bearing(i) * Math.PI) / 180),
    (v, i) => -v * Math.cos((bearing(i) * Math.PI) / 180),
  );
  const hour = (degrees: number) => String((degrees / 30) % 12 || 12);
  return (
    <Figure
      title="Rim, unrolled"
      look={`Deviation from the ${gate} gate by clock hour, %. Below the line it stops short.`}
      table={{
        head: ["clock hour", ...rims.map((r) => `${r.label}, reach %`)],
        rows: Array.from({ length: 12 }, (_, h) => {
          const bin = Math.round((h / 12) * bins) % bins;
          return [h || 12, ...rims.map((r) => decimal(r.radius[bin] ?? 0))];
        }),
      }}
      className="rim"
    >
      <svg viewBox={`0 0 ${W} ${H}`} role="img" aria-label="Rim, unrolled; its numbers are below">
        <Levels y={y} count={6} x1={LEFT} x2={W - 6} signed />
        <line className="gate-line" x1={LEFT} x2={W - 6} y1={y(0)} y2={y(0)} />
        {[0, 90, 180, 270, 360].map((d) => (
          <g key={d}>
            <line className="grid" x1={x(d)} x2={x(d)} y1={TOP} y2={H - BOTTOM} />
            <text className="axis" x={x(d)} y={H - 8} textAnchor={d === 360 ? "end" : "middle"}>
              {hour(d)}
            </text>
          </g>
        ))}
        {rims.map((r) => (
          <path
            key={r.role}
            className={`curve-${r.role}`}
            d={draw(off(r)) ?? ""}
            strokeDasharray={DASH[r.role]}
          />
        ))}
      </svg>
      <svg className="rim-round" viewBox="-112 -112 224 224" aria-hidden="true">
        <GateOutline gate={gate} className="gate-line" />
        {rims.map((r) => (
          <path
            key={r.role}
            className={`curve-${r.role}`}
            d={`${round(r.radius) ?? ""}Z`}
            strokeDasharray={DASH[r.role]}
          />
        ))}
      </svg>
    </Figure>
  );
}
