import { useState } from "react";
import type { Schemas } from "../api/client";

const PLACE = {
  left: { x: 4, y: 26, width: 14, height: 28 },
  right: { x: 62, y: 26, width: 14, height: 28 },
  top: { x: 26, y: 4, width: 28, height: 14 },
  bottom: { x: 26, y: 62, width: 28, height: 14 },
} as const;
const ACROSS = { left: "right", right: "left", top: "top", bottom: "bottom" } as const;

/** The module as it lies on the mat, the sensor of an axis filled in; turned over at a press. */
export function WhichPart({
  axis,
  sensors,
}: {
  axis: "x" | "y";
  sensors: readonly Schemas["ModelSensor"][];
}) {
  const [over, setOver] = useState(false);
  const placed = sensors.flatMap(({ axis: of, side }) =>
    side ? [{ of, side: over ? ACROSS[side] : side }] : [],
  );
  const place = placed.find((s) => s.of === axis);
  if (!place) return null;
  return (
    <figure className="which-part">
      <svg
        viewBox="0 0 80 80"
        role="img"
        aria-label={`The ${axis} sensor is at the ${place.side}, seen from ${over ? "below" : "above"}`}
      >
        <rect className="module" x={18} y={18} width={44} height={44} />
        {over ? (
          <path className="module" d="M26 26L54 54M54 26L26 54" />
        ) : (
          <circle className="module" cx={40} cy={40} r={13} />
        )}
        {placed.map(({ of, side }) => (
          <rect key={of} className={of === axis ? "meant" : "module"} {...PLACE[side]} />
        ))}
      </svg>
      <button type="button" className="plain link" onClick={() => setOver(!over)}>
        from {over ? "below" : "above"}: turn over
      </button>
    </figure>
  );
}
