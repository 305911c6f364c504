import type { Schemas } from "../api/client";
import "./plots.css";

/** What a take is in the story: as it came, in between, or as it is now. */
export type Role = Schemas["ListedTake"]["mark"];

export const DASH: Record<Role, string | undefined> = {
  received: "6 4",
  between: "2 3",
  now: undefined,
};

/** A stage's mark at a place: hollow circle, triangle, filled square. */
export function StagePoint({
  stage,
  x,
  y,
  size = 5,
}: {
  stage: Role;
  x: number;
  y: number;
  size?: number;
}) {
  const common = { className: `stage-${stage}` };
  if (stage === "received") return <circle {...common} cx={x} cy={y} r={size * 0.8} />;
  if (stage === "now") {
    return (
      <rect
        {...common}
        x={x - size * 0.7}
        y={y - size * 0.7}
        width={size * 1.4}
        height={size * 1.4}
      />
    );
  }
  return <path {...common} d={`M${x} ${y - size}L${x + size} ${y + size * 0.8}H${x - size}Z`} />;
}

export function StageMark({ stage }: { stage: Role }) {
  return (
    <svg className="stage-mark" width={14} height={14} viewBox="0 0 14 14" aria-hidden="true">
      <StagePoint stage={stage} x={7} y={7} />
    </svg>
  );
}
