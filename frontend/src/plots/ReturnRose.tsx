import type { Schemas } from "../api/client";
import { decimal, place } from "../app/format";
import { Figure, Hours, Pressable, roundStep } from "./parts";
import { type Role, StagePoint } from "./stage";
import "./plots.css";

export interface Returns {
  role: Role;
  label: string;
  release: Schemas["Release"][];
}

const HALF = 92;

/** Where each push left the stick; the hair points the way it was pushed. */
export function ReturnRose({
  returns,
  limit,
  choose,
}: {
  returns: Returns[];
  limit: number;
  choose?: (release: Schemas["Release"]) => void;
}) {
  const finals = returns.flatMap((r) =>
    r.release.map((f) => Math.hypot(f.final_x, f.final_y ?? 0)),
  );
  const reach = Math.max(limit * 1.1, ...finals.map((f) => f * 1.12));
  const scale = HALF / reach;
  const step = roundStep(reach, 3);
  const rings = Array.from({ length: Math.floor(reach / step) }, (_, i) => (i + 1) * step);
  return (
    <Figure
      title="Return rose"
      look="Where each push left it; hairs point where it was pushed."
      table={{
        head: ["Take", "pushed to", "x %", "y %", "settled ms"],
        rows: returns.flatMap((r) =>
          r.release.map((f) => [
            r.label,
            place(f.bearing, 2),
            decimal(f.final_x, 2),
            f.final_y === null ? "–" : decimal(f.final_y, 2),
            f.settle_ms === null ? "–" : decimal(f.settle_ms, 0),
          ]),
        ),
      }}
    >
      <svg viewBox="-118 -118 236 236" role="group" aria-label="Return rose; its numbers are below">
        {rings.map((r) => (
          <circle key={r} className="grid" r={r * scale} />
        ))}
        {[0, 1, 2, 3, 4, 5].map((i) => (
          <line
            key={i}
            className="grid"
            x1={-HALF * Math.sin((i * Math.PI) / 6)}
            y1={HALF * Math.cos((i * Math.PI) / 6)}
            x2={HALF * Math.sin((i * Math.PI) / 6)}
            y2={-HALF * Math.cos((i * Math.PI) / 6)}
          />
        ))}
        <circle className="limit-ring" r={limit * scale} />
        <Hours radius={HALF + 14} />
        {returns.map((r) => (
          <g key={r.role} className={`rose-${r.role}`}>
            {r.release.map((f) => (
              <Mark key={f.t_s} release={f} stage={r.role} scale={scale} choose={choose} />
            ))}
          </g>
        ))}
        <g className="scale-bar">
          <path d={`M${114 - step * scale} 106H114`} />
          <text x={114 - (step * scale) / 2} y={101} textAnchor="middle">
            {decimal(step, step < 1 ? 1 : 0)} %
          </text>
        </g>
      </svg>
    </Figure>
  );
}

/** One release: its mark where the stick was left; pressing it leads to its samples. */
function Mark({
  release,
  stage,
  scale,
  choose,
}: {
  release: Schemas["Release"];
  stage: Role;
  scale: number;
  choose: ((release: Schemas["Release"]) => void) | undefined;
}) {
  const x = release.final_x * scale;
  const y = -(release.final_y ?? 0) * scale;
  const a = (release.bearing * Math.PI) / 180;
  const left = Math.hypot(release.final_x, release.final_y ?? 0);
  return (
    <Pressable
      said={`Pushed to ${place(release.bearing, 2)}, left at ${decimal(left)} %`}
      press={choose && (() => choose(release))}
    >
      <line className="hair" x1={x} y1={y} x2={x + 11 * Math.sin(a)} y2={y - 11 * Math.cos(a)} />
      <StagePoint stage={stage} x={x} y={y} size={4.5} />
    </Pressable>
  );
}
