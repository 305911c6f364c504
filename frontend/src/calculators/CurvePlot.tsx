import { scaleLinear } from "d3-scale";
import { line } from "d3-shape";
import type { Schemas } from "../api/client";
import { decimal } from "../app/format";
import { Figure, Levels } from "../plots/parts";

const WIDTH = 480;
const HEIGHT = 210;
const LEFT = 48;
const RIGHT = 108;
const DASH = ["2 3", "7 4", "1 3", "9 2 2 2"];
const ROWS = 6;
const LABELLED = 0.8;

/** Lines over one scale, each named at its end. */
export function CurvePlot({ plot, title }: { plot: Schemas["Plot"]; title: string }) {
  const all = plot.curves.flatMap((c) => [...c.y]);
  const least = Math.min(...all, 0);
  const most = Math.max(...all, 0);
  const places = plot.curves[0]?.x ?? [];
  const end = places[places.length - 1] ?? 1;
  const x = scaleLinear()
    .domain([places[0] ?? 0, end])
    .range([LEFT, WIDTH - RIGHT]);
  const y = scaleLinear()
    .domain([least, most > least ? most : least + 1])
    .range([HEIGHT - 34, 10])
    .nice(4);
  const every = Math.max(1, Math.floor((places.length - 1) / (ROWS - 1)));
  const rows = places
    .map((at, i) => [decimal(at, 2), ...plot.curves.map((c) => decimal(c.y[i] ?? 0, 2))])
    .filter((_, i) => i % every === 0);
  // Labels stand in the order in which their lines end, so that no leader crosses another.
  const ends = plot.curves.map((c) => c.y[Math.round(LABELLED * (c.y.length - 1))] ?? 0);
  const order = ends.map((_, i) => i).sort((a, b) => (ends[b] ?? 0) - (ends[a] ?? 0));
  return (
    <Figure
      title={`${title}: ${plot.y_says}`}
      look={plot.look}
      table={{ head: [plot.x_says, ...plot.curves.map((c) => c.label)], rows }}
    >
      <svg
        viewBox={`0 0 ${WIDTH} ${HEIGHT}`}
        role="img"
        aria-label={`${plot.y_says} by ${plot.x_says}`}
      >
        <Levels y={y} x1={LEFT} x2={WIDTH - RIGHT} />
        {[0, end / 2, end].map((t) => (
          <text key={t} className="axis" x={x(t)} y={HEIGHT - 20} textAnchor="middle">
            {t}
          </text>
        ))}
        <text className="axis" x={(LEFT + WIDTH - RIGHT) / 2} y={HEIGHT - 5} textAnchor="middle">
          {plot.x_says}
        </text>
        {plot.curves.map((c, i) => {
          const place = order.indexOf(i);
          const points = c.x.map((at, n): [number, number] => [x(at), y(c.y[n] ?? 0)]);
          const at = Math.round((c.x.length > 2 ? 0.62 + 0.12 * place : 1) * (c.x.length - 1));
          return (
            <g key={c.label} className={i === plot.meant ? "curve meant" : "curve"}>
              <path
                d={line()(points) ?? ""}
                strokeDasharray={i === plot.meant ? undefined : DASH[i % DASH.length]}
              />
              <line
                className="grid"
                x1={points[at]?.[0]}
                y1={points[at]?.[1]}
                x2={WIDTH - RIGHT + 6}
                y2={22 + 20 * place}
              />
              <text className="axis" x={WIDTH - RIGHT + 9} y={26 + 20 * place}>
                {c.label}
              </text>
            </g>
          );
        })}
      </svg>
    </Figure>
  );
}
