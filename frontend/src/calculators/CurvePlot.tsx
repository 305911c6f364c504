import { scaleLinear } from "d3-scale";
import { line } from "d3-shape";
import type { Schemas } from "../api/client";
import { decimal } from "../app/format";
import { Figure, Levels } from "../plots/parts";

const WIDTH = 480;
const HEIGHT = 210;
const LEFT = 48;
const RIGHT = 108;
const DASH = ["2 3", undefined, "7 4", "1 3"];
const EVERY = 20;

/** Lines over the travel, each named at its end. */
export function CurvePlot({ plot, title }: { plot: Schemas["Plot"]; title: string }) {
  const all = plot.curves.flatMap((c) => [...c.y]);
  const least = Math.min(...all, 0);
  const most = Math.max(...all, 0);
  const x = scaleLinear()
    .domain([0, 1])
    .range([LEFT, WIDTH - RIGHT]);
  const y = scaleLinear()
    .domain([least, most > least ? most : least + 1])
    .range([HEIGHT - 34, 10])
    .nice(4);
  const first = plot.curves[0];
  const rows = (first?.x ?? [])
    .map((at, i) => [decimal(at, 2), ...plot.curves.map((c) => decimal(c.y[i] ?? 0, 2))])
    .filter((_, i) => i % EVERY === 0);
  return (
    <Figure
      title={`${title}: ${plot.y_says}`}
      look={plot.look}
      table={{ head: [plot.x_says, ...plot.curves.map((c) => c.label)], rows }}
    >
      <svg
        viewBox={`0 0 ${WIDTH} ${HEIGHT}`}
        role="img"
        aria-label={`${plot.y_says} over the travel`}
      >
        <Levels y={y} x1={LEFT} x2={WIDTH - RIGHT} />
        {[0, 0.5, 1].map((t) => (
          <text key={t} className="axis" x={x(t)} y={HEIGHT - 20} textAnchor="middle">
            {t}
          </text>
        ))}
        <text className="axis" x={(LEFT + WIDTH - RIGHT) / 2} y={HEIGHT - 5} textAnchor="middle">
          {plot.x_says}
        </text>
        {plot.curves.map((c, i) => {
          const points = c.x.map((at, n): [number, number] => [x(at), y(c.y[n] ?? 0)]);
          const label = 0.62 + 0.12 * i;
          const at = Math.round(label * (c.x.length - 1));
          return (
            <g key={c.label} className={i === 1 ? "curve meant" : "curve"}>
              <path d={line()(points) ?? ""} strokeDasharray={DASH[i % DASH.length]} />
              <line
                className="grid"
                x1={points[at]?.[0]}
                y1={points[at]?.[1]}
                x2={WIDTH - RIGHT + 6}
                y2={22 + 20 * i}
              />
              <text className="axis" x={WIDTH - RIGHT + 9} y={26 + 20 * i}>
                {c.label}
              </text>
            </g>
          );
        })}
      </svg>
    </Figure>
  );
}
