import { scaleLinear } from "d3-scale";
import { decimal } from "../app/format";
import type { Now } from "./useCentring";

const SIZE = 300;
const EDGE = 132;
/** Half widths of the view, %: the smallest that holds what is shown. */
const SPANS = [1, 2, 5, 10, 20, 50, 110];

/** The pin, grown: the ring is what the bench can see, the dot where it is now, the square where it was
 * last read, with a hair toward the middle. */
export function Target({ now, single }: { now: Now; single: boolean }) {
  const distances = [now.x, now.y, now.settled?.x ?? 0, now.settled?.y ?? 0].map(Math.abs);
  const far = Math.max(...distances, 1.6 * Math.max(...now.within));
  const span = SPANS.find((s) => s >= far) ?? 110;
  const at = scaleLinear().domain([-span, span]).range([-EDGE, EDGE]);
  const [ringX, ringY] = now.within;
  const label = `Where it is now, within plus or minus ${span} %: x ${decimal(now.x)} %${single ? "" : `, y ${decimal(now.y)} %`}`;
  return (
    <svg
      className={`target ${now.state}`}
      viewBox={`${-SIZE / 2} ${-SIZE / 2} ${SIZE} ${SIZE}`}
      role="img"
      aria-label={label}
    >
      <path className="cross" d={`M${-EDGE} 0H${EDGE}M0 ${-EDGE}V${EDGE}`} />
      {single ? (
        <rect
          className="ring"
          x={-at(ringX)}
          y={-EDGE / 3}
          width={2 * at(ringX)}
          height={EDGE / 1.5}
        />
      ) : (
        <rect
          className="ring"
          x={-at(ringX)}
          y={-at(ringY)}
          width={2 * at(ringX)}
          height={2 * at(ringY)}
          rx={at(ringX)}
          ry={at(ringY)}
        />
      )}
      {now.settled && (
        <>
          <line className="hair" x1={0} y1={0} x2={at(now.settled.x)} y2={-at(now.settled.y)} />
          <rect
            className="read"
            x={at(now.settled.x) - 8}
            y={-at(now.settled.y) - 8}
            width={16}
            height={16}
          />
        </>
      )}
      <circle className="dot" cx={at(now.x)} cy={-at(now.y)} r={6} />
      <g className="scale">
        <path d={`M${EDGE - at(span / 2)} ${EDGE + 8}V${EDGE + 12}H${EDGE}V${EDGE + 8}`} />
        <text className="axis" x={EDGE - at(span / 2) - 6} y={EDGE + 14} textAnchor="end">
          {span / 2} %
        </text>
      </g>
    </svg>
  );
}
