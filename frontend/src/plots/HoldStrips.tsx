import { scaleLinear } from "d3-scale";
import type { Schemas } from "../api/client";
import { between, type Samples } from "../api/samples";
import { decimal, place } from "../app/format";
import { Figure, Pressable } from "./parts";
import { DASH, type Role } from "./stage";
import "./plots.css";

type Hold = Schemas["Hold"];

export interface HoldsOfTake {
  role: Role;
  label: string;
  axes: number;
  holds: Hold[];
  samples: Samples | undefined;
}

const W = 300;
const LEFT = 62;
const DEEPEST = -20;
const ROW = 42;
const POINTS = 120;

/** Position along the hold less its level, as the least and the most of short stretches. */
function trace(hold: Hold, samples: Samples): [number, number, number][] {
  const { x, y } = between(samples, hold.t_s, hold.end_s);
  const b = (hold.bearing * Math.PI) / 180;
  const off = x.map((v, i) => v * Math.sin(b) + (y[i] ?? 0) * Math.cos(b) - hold.level);
  const size = Math.max(1, Math.ceil(off.length / POINTS));
  return Array.from({ length: Math.ceil(off.length / size) }, (_, i) => {
    const part = off.slice(i * size, (i + 1) * size);
    return [i / Math.max(1, off.length / size - 1), Math.min(...part), Math.max(...part)];
  });
}

/** Each direction held at full deflection: flat is well, falling is a track that fails there. */
export function HoldStrips({
  held,
  choose,
}: {
  held: HoldsOfTake[];
  choose?: (hold: Hold) => void;
}) {
  const rows = held[0]?.holds.length ?? 0;
  const axes = held[0]?.axes ?? 2;
  const lines = held.map((h) => ({
    ...h,
    curves: h.samples ? h.holds.map((hold) => trace(hold, h.samples as Samples)) : [],
  }));
  const least = Math.min(-3, ...lines.flatMap((l) => l.curves.flat().map((p) => p[1])));
  const low = Math.max(DEEPEST, least);
  const high = Math.max(3, ...lines.flatMap((l) => l.curves.flat().map((p) => p[2])));
  const y = scaleLinear()
    .domain([low, high])
    .range([ROW - 4, 2])
    .clamp(true);
  const x = (share: number) => LEFT + share * (W - LEFT - 8);
  return (
    <Figure
      title="Hold strips"
      look={`Held at the edge toward each ${axes === 1 ? "end" : "hour"}: ${decimal(low, 0)} to +${decimal(high, 0)} % about its level. Flat is well.`}
      table={{
        head: ["Take", "toward", "level %", "falls back %", "jitter %", "dropouts"],
        rows: held.flatMap((h) =>
          h.holds.map((hold) => [
            h.label,
            place(hold.bearing, h.axes),
            decimal(hold.level),
            decimal(hold.sag, 2),
            decimal(hold.hold_jitter, 2),
            hold.dropouts,
          ]),
        ),
      }}
    >
      <svg
        viewBox={`0 0 ${W} ${rows * ROW + 4}`}
        role="group"
        aria-label="Hold strips; numbers below"
      >
        {Array.from({ length: rows }, (_, row) => (
          <g key={row} transform={`translate(0 ${row * ROW})`}>
            <line className="gate-line" x1={LEFT} x2={W - 8} y1={y(0)} y2={y(0)} opacity={0.4} />
            {lines.map((l) => {
              const hold = l.holds[row];
              if (!hold) return null;
              const d = (l.curves[row] ?? [])
                .map(([t, a, b], i) => `${i ? "L" : "M"}${x(t)} ${y(b)}L${x(t)} ${y(a)}`)
                .join("");
              return (
                <g key={l.label} className={`curve-${l.role}`}>
                  <path d={d} strokeDasharray={DASH[l.role]} strokeWidth={1.1} />
                </g>
              );
            })}
            {lines[0]?.holds[row] && (
              <Label hold={lines[0].holds[row]} axes={axes} choose={choose} />
            )}
          </g>
        ))}
      </svg>
    </Figure>
  );
}

function Label({
  hold,
  axes,
  choose,
}: {
  hold: Hold;
  axes: number;
  choose: ((hold: Hold) => void) | undefined;
}) {
  const toward = place(hold.bearing, axes);
  const falls = decimal(Math.max(0, hold.sag));
  return (
    <Pressable
      said={`Held toward ${axes === 1 ? "its " : ""}${toward}, falls back ${falls} %`}
      press={choose && (() => choose(hold))}
    >
      <rect x={0} y={2} width={LEFT - 4} height={ROW - 6} fill="transparent" />
      <text className="axis" x={2} y={15}>
        {axes === 1 ? toward : `toward ${toward.replace(" o’clock", "")}`}
      </text>
      <text className={`axis ${hold.dropouts ? "over" : ""}`} x={2} y={30}>
        {hold.dropouts ? `${hold.dropouts} drops` : `falls ${falls}`}
      </text>
    </Pressable>
  );
}
