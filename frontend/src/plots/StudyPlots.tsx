import { scaleLinear, scalePoint } from "d3-scale";
import type { Schemas } from "../api/client";
import { decimal } from "../app/format";
import { namesAlong } from "./names";
import { Figure, Levels } from "./parts";
import { type Role, StagePoint } from "./stage";
import "./plots.css";

type View = Schemas["StudyView"];
type Row = Schemas["StudiedReading"];

const W = 300;
const H = 180;
const LEFT = 40;
const TOP = 10;
const BOTTOM = 24;
const MARKS: Role[] = ["now", "received", "between"];
const MARK_WORD = ["square", "circle", "triangle"];

const mark = (i: number): Role => MARKS[i % MARKS.length] ?? "now";

/** One stick's trials by one role. */
function cellOf(shown: Row, stick: number, role: string): number[] {
  return shown.values.filter((v) => v.stick === stick && v.role === role).map((v) => v.value);
}

const mean = (v: number[]) => v.reduce((s, x) => s + x, 0) / Math.max(1, v.length);

/** Every trial by stick, a mark a role, their means joined: lines that cross are an interaction. */
export function ByOperator({ view, shown, unit }: { view: View; shown: Row; unit: string }) {
  const { roles } = view.study;
  const all = shown.values.map((v) => v.value);
  const y = scaleLinear()
    .domain([Math.min(...all), Math.max(...all) + 1e-9])
    .nice(5)
    .range([H - BOTTOM, TOP]);
  const x = scalePoint<number>()
    .domain(view.names.map((_, i) => i))
    .range([LEFT + 24, W - 24])
    .padding(0.2);
  const { marks, key } = namesAlong(view.names, x.step() || W - LEFT);
  return (
    <Figure
      title="By stick and role"
      look={`${key}${roles.map((r, i) => `${MARK_WORD[i % 3]} ${r}`).join(", ")}; ${unit || "count"}. Lines that run alike: the hands agree.`}
      table={{
        head: ["Stick", "Role", ...Array.from({ length: view.study.trials }, (_, i) => `${i + 1}`)],
        rows: view.names.flatMap((name, i) =>
          roles.map((role) => [name, role, ...cellOf(shown, i, role).map((v) => decimal(v, 3))]),
        ),
      }}
    >
      <svg viewBox={`0 0 ${W} ${H}`} role="img" aria-label="Trials by stick and role">
        <Levels y={y} count={5} x1={LEFT} x2={W - 6} />
        {marks.map((name, i) => (
          <text key={name} className="axis" x={x(i)} y={H - 8} textAnchor="middle">
            {name}
          </text>
        ))}
        {roles.map((role, r) => {
          const shift = (r - (roles.length - 1) / 2) * 9;
          const line = view.names
            .map(
              (_, i) => `${i ? "L" : "M"}${(x(i) ?? 0) + shift} ${y(mean(cellOf(shown, i, role)))}`,
            )
            .join("");
          return (
            <g key={role}>
              <path className={`curve-${mark(r)}`} d={line} opacity={0.6} />
              {view.names.map((name, i) =>
                cellOf(shown, i, role).map((v, k) => (
                  <StagePoint
                    key={`${name} ${k}`}
                    stage={mark(r)}
                    x={(x(i) ?? 0) + shift}
                    y={y(v)}
                    size={3.6}
                  />
                )),
              )}
            </g>
          );
        })}
      </svg>
    </Figure>
  );
}

/** How far apart the trials of one stick by one role lie. */
export function Ranges({ view, shown, unit }: { view: View; shown: Row; unit: string }) {
  const cells = view.cells.map((c) => {
    const v = cellOf(shown, c.stick, c.role);
    return { ...c, range: Math.max(...v) - Math.min(...v) };
  });
  const usual = mean(cells.map((c) => c.range));
  const y = scaleLinear()
    .domain([0, Math.max(...cells.map((c) => c.range), 1e-6)])
    .nice(4)
    .range([H - BOTTOM, TOP]);
  const step = (W - LEFT - 12) / cells.length;
  const { marks, key } = namesAlong(view.names, step * view.study.roles.length);
  return (
    <Figure
      title="Ranges"
      look={`${key}Largest less smallest of each stick’s trials, ${unit || "count"}; the line is their mean. One far above: look at that take.`}
      table={{
        head: ["Stick", "Role", "range"],
        rows: cells.map((c) => [view.names[c.stick] ?? "", c.role, decimal(c.range, 3)]),
      }}
    >
      <svg viewBox={`0 0 ${W} ${H}`} role="img" aria-label="Ranges of the trials">
        <Levels y={y} count={4} x1={LEFT} x2={W - 6} />
        <line className="gate-line" x1={LEFT} x2={W - 6} y1={y(usual)} y2={y(usual)} />
        {cells.map((c, i) => (
          <StagePoint
            key={`${c.stick} ${c.role}`}
            stage={mark(view.study.roles.indexOf(c.role))}
            x={LEFT + step * (i + 0.5)}
            y={y(c.range)}
            size={4.5}
          />
        ))}
        {marks.map((name, i) => (
          <text
            key={name}
            className="axis"
            x={LEFT + step * view.study.roles.length * (i + 0.5)}
            y={H - 8}
            textAnchor="middle"
          >
            {name}
          </text>
        ))}
      </svg>
    </Figure>
  );
}

/** Where the scatter comes from, as standard deviations on one scale. */
export function Components({ shown, unit }: { shown: Row; unit: string }) {
  const g = shown.gauge;
  const bars = (
    [
      ["same hands", g.repeatability],
      ["other hands", g.reproducibility],
      ["bench, all", g.gauge_rr],
      ["the sticks", g.part],
    ] as [string, number | null][]
  ).filter((b): b is [string, number] => b[1] !== null);
  const x = scaleLinear()
    .domain([0, Math.max(...bars.map(([, v]) => v), 1e-6)])
    .nice(4)
    .range([80, W - 40]);
  return (
    <Figure
      title="Where the scatter comes from"
      look={`Standard deviations, ${unit || "count"}. The sticks’ bar should dwarf the bench’s.`}
      table={{
        head: ["From", `standard deviation ${unit}`, "% of all"],
        rows: [
          ["repeatability", decimal(g.repeatability, 4), share(g, "repeatability")],
          [
            "reproducibility",
            g.reproducibility === null ? "–" : decimal(g.reproducibility, 4),
            share(g, "reproducibility"),
          ],
          ["gauge", decimal(g.gauge_rr, 4), share(g, "gauge_rr")],
          ["sticks", g.part === null ? "–" : decimal(g.part, 4), share(g, "part")],
          ["total", g.total === null ? "–" : decimal(g.total, 4), share(g, "total")],
        ],
      }}
    >
      <svg viewBox={`0 0 ${W} ${H}`} role="img" aria-label="Components of the scatter">
        {bars.map(([label, v], i) => (
          <g key={label} transform={`translate(0 ${TOP + i * 38})`}>
            <text className="axis" x={74} y={15} textAnchor="end">
              {label}
            </text>
            <rect
              className={label === "the sticks" ? "bar-part" : "bar-gauge"}
              x={80}
              y={4}
              width={Math.max(1, x(v) - 80)}
              height={16}
            />
            <text className="axis" x={x(v) + 5} y={16}>
              {decimal(v, v < 0.1 ? 3 : 2)}
            </text>
          </g>
        ))}
      </svg>
    </Figure>
  );
}

function share(g: Schemas["Gauge"], key: string): string {
  const percent = g.percent_study_variation?.[key];
  return percent === undefined ? "–" : decimal(percent);
}
