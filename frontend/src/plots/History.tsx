import { scaleLinear, scaleTime } from "d3-scale";
import { useNavigate } from "react-router";
import type { Schemas } from "../api/client";
import { day, decimal, digitsOf } from "../app/format";
import { Figure, Levels } from "./parts";
import { StagePoint } from "./stage";
import "./plots.css";

type StickHistory = Schemas["StickHistory"];
type Point = Schemas["Point"];

const WIDTH = 760;
const HEIGHT = 230;
const LEFT = 46;
const RIGHT = 74;
const TOP = 16;
const BOTTOM = 52;
const APART = 24;
/** Where things stand in their order of time: at their moment, but never on top of each other. */
function spread<T extends { at: string }>(
  things: readonly T[],
  place: (thing: T) => number,
): Map<T, number> {
  const sorted = [...things].sort((a, b) => a.at.localeCompare(b.at));
  const apart = Math.min(APART, (WIDTH - LEFT - RIGHT) / Math.max(1, sorted.length));
  const places = sorted.map(place);
  for (let i = 1; i < places.length; i++) {
    places[i] = Math.max(places[i] ?? 0, (places[i - 1] ?? 0) + apart);
  }
  let edge = WIDTH - RIGHT - 6;
  for (let i = places.length - 1; i >= 0; i--) {
    places[i] = Math.min(places[i] ?? 0, edge);
    edge = (places[i] ?? 0) - apart;
  }
  return new Map(sorted.map((thing, i) => [thing, places[i] ?? LEFT]));
}

/** A reading over the life of a stick: stages as marks, work between them, the limit as a line. */
export function History({
  history,
  path,
  info,
}: {
  history: StickHistory;
  path: string;
  info: Schemas["ReadingInfo"];
}) {
  const navigate = useNavigate();
  const points = history.points.filter((p) => p.values[path] !== undefined);
  const limit = history.limits[path]?.everyday;
  if (points.length === 0) {
    return <p className="soft">{info.label} has not been measured on this stick.</p>;
  }
  const times = [...points, ...history.work].map((p) => Date.parse(p.at));
  const span = Math.max(Math.max(...times) - Math.min(...times), 3_600_000);
  const x = scaleTime()
    .domain([Math.min(...times) - span * 0.04, Math.max(...times) + span * 0.04])
    .range([LEFT, WIDTH - RIGHT]);
  const ticks = x.ticks(6).reverse();
  const days = new Map(ticks.map((t) => [day(t.toISOString()), t]));
  const places = spread([...points, ...history.work], (p) => x(Date.parse(p.at)));
  const high = Math.max(
    ...points.map((p) => (p.values[path] ?? 0) + 2 * (p.uncertainty[path] ?? 0)),
    limit ?? 0,
  );
  const low = Math.min(0, ...points.map((p) => p.values[path] ?? 0));
  const y = scaleLinear()
    .domain([low, high * 1.08 || 1])
    .range([HEIGHT - BOTTOM, TOP])
    .nice(6);
  const digits = digitsOf(info.unit);
  const visits = new Map<number, Point[]>();
  for (const p of points) visits.set(p.job_id, [...(visits.get(p.job_id) ?? []), p]);
  return (
    <Figure
      title={`${info.label}, ${info.unit}`}
      look="Each line is one visit, from how it came to how it left. A line that starts higher every time is a fault that comes back."
      className="history"
      table={{
        head: ["When", "Take", "Stage", info.label, "±"],
        rows: points.map((p) => [
          day(p.at),
          p.take_id,
          p.stage,
          decimal(p.values[path] ?? 0, digits),
          p.uncertainty[path] === undefined ? "–" : decimal(2 * (p.uncertainty[path] ?? 0), digits),
        ]),
      }}
    >
      <svg
        viewBox={`0 0 ${WIDTH} ${HEIGHT}`}
        role="group"
        aria-label={`${info.label} of the ${history.stick} over its visits`}
      >
        <Levels y={y} x1={LEFT} x2={WIDTH - RIGHT} />
        {[...days].map(([name, t]) => (
          <text key={name} className="axis" x={x(t)} y={HEIGHT - 8} textAnchor="middle">
            {name}
          </text>
        ))}
        {limit !== undefined && (
          <g>
            <path className="limit-across" d={`M${LEFT} ${y(limit)}H${WIDTH - RIGHT}`} />
            <text className="over" x={WIDTH - RIGHT + 6} y={y(limit)} dominantBaseline="central">
              limit {decimal(limit, digits)}
            </text>
          </g>
        )}
        {history.work.map((w) => (
          <g key={w.at} className="work-tick">
            <path d={`M${places.get(w)} ${HEIGHT - BOTTOM}v10`} />
            <text x={places.get(w)} y={HEIGHT - BOTTOM + 21} textAnchor="middle">
              {w.words.split(":")[0]?.toLowerCase()}
            </text>
          </g>
        ))}
        {[...visits.values()].map((visit) => (
          <path
            key={visit[0]?.take_id}
            className="visit-line"
            d={`M${visit.map((p) => `${places.get(p)} ${y(p.values[path] ?? 0)}`).join("L")}`}
          />
        ))}
        {points.map((p) => {
          const at = places.get(p) ?? LEFT;
          const value = p.values[path] ?? 0;
          const u = 2 * (p.uncertainty[path] ?? 0);
          const open = () => navigate(`/jobs/${p.job_id}/takes/${p.take_id}`);
          return (
            <g
              key={p.take_id}
              className="target"
              role="link"
              tabIndex={0}
              aria-label={`Take ${p.take_id}, ${day(p.at)}, ${p.stage}: ${decimal(value, digits)} ${info.unit}`}
              onClick={open}
              onKeyDown={(e) => e.key === "Enter" && open()}
            >
              <path
                className="u-line"
                d={`M${at} ${y(Math.max(low, value - u))}V${y(value + u)}`}
              />
              <circle cx={at} cy={y(value)} r={12} fill="transparent" />
              <StagePoint stage={p.mark} x={at} y={y(value)} size={6} />
            </g>
          );
        })}
      </svg>
    </Figure>
  );
}
