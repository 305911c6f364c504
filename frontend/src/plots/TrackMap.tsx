import type { Schemas } from "../api/client";
import { decimal } from "../app/format";
import { Figure } from "./parts";
import { type Role, StagePoint } from "./stage";
import "./plots.css";

type Crossing = Pick<
  Schemas["Crossing"],
  "passes" | "track_noise" | "track_noise_median" | "track_noise_max" | "rough_spots" | "dead_spans"
>;

export interface Track {
  role: Role;
  /** Which take and axis, such as “x” or “Before, x”. */
  label: string;
  ends: [string, string];
  crossing: Crossing;
}

/** Where they lie, and in how many of the passes they are. */
function spans(track: Track, of: readonly { from_: number; to: number; passes: number }[]): string {
  const each = of.map((s) => `${decimal(s.from_, 0)} to ${decimal(s.to, 0)}, ${s.passes} of `);
  return each.map((s) => s + track.crossing.passes).join("; ") || "none";
}

const W = 300;
const LEFT = 24;
const STRIP = 26;
const ROW = 52;

const at = (position: number) => LEFT + ((position + 100) / 200) * (W - LEFT - 6);

/** The strips of axes, position across, noise as ink: a barcode of wear. */
export function TrackMap({ tracks }: { tracks: Track[] }) {
  const most = Math.max(0.5, ...tracks.map((t) => t.crossing.track_noise_max));
  const height = tracks.length * ROW + 22;
  return (
    <Figure
      title="Track map"
      look={`Ink is noise on the way, full at ${decimal(most)} %. Barred: rough. Crossed out: jumped over.`}
      table={{
        head: [
          "Track",
          "usual noise %",
          "roughest %",
          "rough spots, in passes",
          "dead spans, in passes",
        ],
        rows: tracks.map((t) => [
          t.label,
          decimal(t.crossing.track_noise_median, 2),
          decimal(t.crossing.track_noise_max, 2),
          spans(t, t.crossing.rough_spots),
          spans(t, t.crossing.dead_spans),
        ]),
      }}
    >
      <svg viewBox={`0 0 ${W} ${height}`} role="img" aria-label="Track map; its numbers are below">
        {tracks.map((track, row) => (
          <g key={track.label} transform={`translate(0 ${row * ROW + 6})`}>
            <StagePoint stage={track.role} x={9} y={8} size={5} />
            <text className="axis" x={9} y={24} textAnchor="middle">
              {track.label.slice(-1)}
            </text>
            <Strip track={track} most={most} />
          </g>
        ))}
        {[-100, -50, 0, 50, 100].map((v) => (
          <text key={v} className="axis" x={at(v)} y={height - 4} textAnchor={anchor(v)}>
            {decimal(v, 0)}
          </text>
        ))}
      </svg>
    </Figure>
  );
}

function anchor(v: number) {
  return v === 100 ? "end" : v === -100 ? "start" : "middle";
}

function Strip({ track, most }: { track: Track; most: number }) {
  const { crossing, ends } = track;
  return (
    <>
      {crossing.track_noise.map((noise, i) =>
        noise === null ? null : (
          <rect
            key={i}
            className="ink"
            x={at(-100 + 4 * i)}
            y={0}
            width={at(4) - at(0) + 0.3}
            height={STRIP}
            opacity={0.06 + 0.94 * Math.min(1, noise / most)}
          />
        ),
      )}
      <rect className="frame" x={at(-100)} y={0} width={at(100) - at(-100)} height={STRIP} />
      {crossing.rough_spots.map((s) => (
        <path key={s.from_} className="rough" d={`M${at(s.from_)} ${STRIP + 3}H${at(s.to)}`} />
      ))}
      {crossing.dead_spans.map((s) => {
        const [a, b] = [at(s.from_), at(s.to)];
        return (
          <g key={s.from_} className="dead">
            <rect x={a} y={0} width={b - a} height={STRIP} />
            <path d={`M${a} 0L${b} ${STRIP}M${b} 0L${a} ${STRIP}`} />
          </g>
        );
      })}
      <text className="axis" x={at(-100)} y={STRIP + 14}>
        {ends[0]}
      </text>
      <text className="axis" x={at(100)} y={STRIP + 14} textAnchor="end">
        {ends[1]}
      </text>
    </>
  );
}

/** The strips of a take: both axes of a crossing, or a turn's one. */
export function tracksOf(
  readings: Schemas["TakeReadings"] | null | undefined,
  role: Role,
  label = "",
): Track[] {
  const named = (axis: string) => (label ? `${label}, ${axis}` : axis);
  const tracks: Track[] = [];
  const { x, y } = readings?.crossing ?? {};
  const single = readings?.recording.axes.length === 1;
  const ends: Track["ends"] = single ? ["low", "high"] : ["left", "right"];
  if (x) tracks.push({ role, label: named("x"), ends, crossing: x });
  if (y) tracks.push({ role, label: named("y"), ends: ["down", "up"], crossing: y });
  if (readings?.turn) {
    tracks.push({ role, label: named("x"), ends: ["low", "high"], crossing: readings.turn });
  }
  return tracks;
}
