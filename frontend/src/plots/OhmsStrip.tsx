import { scaleLinear } from "d3-scale";

const WIDTH = 640;
const HEIGHT = 64;
const LINE = 34;

interface One {
  ohms: readonly number[];
  bad: boolean;
}

/** Where the tracks of a lot lie about the value that was ordered, and how far they may. */
export function OhmsStrip({
  values,
  ordered,
  tolerance,
}: {
  values: readonly One[];
  ordered: number | null;
  tolerance: number | null;
}) {
  const all = values.flatMap((v) => v.ohms);
  if (all.length === 0) return null;
  const around = ordered ?? all.reduce((a, b) => a + b) / all.length;
  const room = (around * (tolerance ?? 20)) / 100;
  const low = Math.min(...all, around - room);
  const high = Math.max(...all, around + room);
  const pad = (high - low || 1) * 0.06;
  const x = scaleLinear([low - pad, high + pad], [10, WIDTH - 10]);
  return (
    <svg
      viewBox={`0 0 ${WIDTH} ${HEIGHT}`}
      className="ohms-strip"
      role="img"
      aria-label={`${all.length} tracks from ${Math.min(...all)} to ${Math.max(...all)} ohms`}
    >
      {ordered !== null && (
        <>
          <rect
            x={x(ordered - room)}
            y={LINE - 16}
            width={x(ordered + room) - x(ordered - room)}
            height={32}
            className="ohms-allowed"
          />
          <line
            x1={x(ordered)}
            x2={x(ordered)}
            y1={LINE - 20}
            y2={LINE + 20}
            className="ohms-ordered"
          />
          <text x={x(ordered)} y={11} textAnchor="middle">
            {ordered} Ω ordered
          </text>
        </>
      )}
      {values.flatMap((v, i) =>
        v.ohms.map((o, k) => (
          <path
            key={`${i} ${k}`}
            d={`M ${x(o)} ${LINE - 10} v 20`}
            className={v.bad ? "ohms-one bad" : "ohms-one"}
          />
        )),
      )}
    </svg>
  );
}
