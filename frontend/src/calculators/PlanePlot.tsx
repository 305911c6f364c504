import { scaleLinear } from "d3-scale";
import { line } from "d3-shape";
import type { Schemas } from "../api/client";
import { decimal } from "../app/format";
import { Figure } from "../plots/parts";

const SIZE = 300;
const MARGIN = 22;
const LINE = 20;
const EVERY = 9;
const MARK = 3;
/** Closed lines of more points than this are drawn as lines, fewer as marks. */
const FEW = 60;

/** Places seen from above, both ways by one scale: what is so, and what is received of it. */
export function PlanePlot({ plot }: { plot: Schemas["Plot"] }) {
  const most = Math.max(100, ...plot.curves.flatMap((c) => [...c.x, ...c.y].map(Math.abs)));
  const at = scaleLinear()
    .domain([-most, most])
    .range([MARGIN, SIZE - MARGIN]);
  const down = scaleLinear()
    .domain([-most, most])
    .range([SIZE - MARGIN, MARGIN]);
  const head = plot.curves.flatMap((c) => [`${c.label}: x`, "y"]);
  const longest = plot.curves.reduce((n, c) => Math.max(n, c.x.length), 0);
  const rows = Array.from({ length: Math.ceil(longest / EVERY) }, (_, n) =>
    plot.curves.flatMap((c) =>
      n * EVERY < c.x.length
        ? [decimal(c.x[n * EVERY] ?? 0), decimal(c.y[n * EVERY] ?? 0)]
        : ["", ""],
    ),
  );
  return (
    <Figure title="Over its own rim" look={plot.look} table={{ head, rows }}>
      <svg
        className="plane-plot"
        viewBox={`0 0 ${SIZE} ${SIZE + LINE * Math.ceil(plot.curves.length / 2)}`}
        role="img"
        aria-label={`${plot.x_says}, ${plot.y_says}: ${plot.curves.map((c) => c.label).join(", ")}`}
      >
        <line className="grid" x1={MARGIN} x2={SIZE - MARGIN} y1={down(0)} y2={down(0)} />
        <line className="grid" y1={MARGIN} y2={SIZE - MARGIN} x1={at(0)} x2={at(0)} />
        {plot.curves.map((c, i) => {
          const points = c.x.map((x, n): [number, number] => [at(x), down(c.y[n] ?? 0)]);
          const own = i % 2 === 0;
          return (
            <g key={c.label} className={own ? "plane own" : "plane got"}>
              {points.length > FEW ? (
                <path d={line()(points) ?? ""} />
              ) : (
                points.map(([x, y], n) =>
                  own ? (
                    <circle key={n} cx={x} cy={y} r={MARK} />
                  ) : (
                    <rect key={n} x={x - 2} y={y - 2} width={4} height={4} />
                  ),
                )
              )}
              <g
                transform={`translate(${(i % 2) * (SIZE / 2)} ${SIZE + LINE * Math.floor(i / 2)})`}
              >
                <line className="sample" x1={4} x2={26} y1={4} y2={4} />
                <text className="axis" x={32} y={8}>
                  {c.label}
                </text>
              </g>
            </g>
          );
        })}
      </svg>
    </Figure>
  );
}
