import { useState } from "react";
import type { Schemas } from "../api/client";
import "./work.css";

type Fastener = Schemas["Fastener"];
export type Step = Schemas["SheetStep"];
export type Mark = Schemas["FastenerMark"];

export const WIDTH = 100;
export const HEIGHT = 64;
const R = 2.4;
const STEP_BY = 2;

/** The outline of a shape about the origin. */
const OUTLINE: Record<string, string> = {
  hexagon: `M ${R} 0 L ${R / 2} ${-R * 0.9} H ${-R / 2} L ${-R} 0 L ${-R / 2} ${R * 0.9} H ${R / 2} Z`,
  bar: `M ${-R * 0.5} ${-R * 1.3} H ${R * 0.5} V ${R * 1.3} H ${-R * 0.5} Z`,
  half: `M ${-R * 1.2} ${R * 0.6} A ${R * 1.2} ${R * 1.2} 0 0 1 ${R * 1.2} ${R * 0.6} Z`,
  diamond: `M 0 ${-R * 1.3} L ${R * 0.8} 0 L 0 ${R * 1.3} L ${-R * 0.8} 0 Z`,
  star: `M 0 ${-R * 1.4} L ${R * 0.4} ${-R * 0.4} L ${R * 1.4} 0 L ${R * 0.4} ${R * 0.4} L 0 ${R * 1.4} L ${-R * 0.4} ${R * 0.4} L ${-R * 1.4} 0 L ${-R * 0.4} ${-R * 0.4} Z`,
  pennant: `M ${-R} ${-R * 1.2} L ${R * 1.2} 0 L ${-R} ${R * 1.2} L ${-R * 0.3} 0 Z`,
};
const NONE = `M ${R} 0 A ${R} ${R} 0 1 1 ${-R} 0 A ${R} ${R} 0 1 1 ${R} 0 Z`;

interface Props {
  steps: readonly Step[];
  fasteners: readonly Fastener[];
  /** The step whose fasteners stand out. */
  at: string | null;
  /** Steps whose fasteners are out. */
  out?: ReadonlySet<string>;
  place?: (x: number, y: number) => void;
  takeAway?: (x: number, y: number) => void;
}

/** Where the fasteners are: each length by its own shape and letter, a hole that takes none struck
 * through. With place it is drawn on by clicking, or by arrow keys and Enter. */
export function Plan({ steps, fasteners, at, out, place, takeAway }: Props) {
  const [cursor, setCursor] = useState<[number, number] | null>(null);
  const move = (dx: number, dy: number) => {
    const [x, y] = cursor ?? [WIDTH / 2, HEIGHT / 2];
    setCursor([Math.min(WIDTH, Math.max(0, x + dx)), Math.min(HEIGHT, Math.max(0, y + dy))]);
  };
  const keys: Record<string, () => void> = {
    ArrowLeft: () => move(-STEP_BY, 0),
    ArrowRight: () => move(STEP_BY, 0),
    ArrowUp: () => move(0, -STEP_BY),
    ArrowDown: () => move(0, STEP_BY),
    Enter: () => cursor && place?.(...cursor),
    Backspace: () => cursor && takeAway?.(...cursor),
    Delete: () => cursor && takeAway?.(...cursor),
  };
  const drawn = place
    ? {
        tabIndex: 0,
        role: "application",
        "aria-label":
          "Plan. Arrow keys move, Enter puts a fastener there, Backspace takes one away.",
        onFocus: () => setCursor((before) => before ?? [WIDTH / 2, HEIGHT / 2]),
        onKeyDown: (e: React.KeyboardEvent) => {
          const run = keys[e.key];
          if (!run) return;
          e.preventDefault();
          e.stopPropagation();
          run();
        },
        onClick: (e: React.MouseEvent<SVGSVGElement>) => {
          const box = e.currentTarget.getBoundingClientRect();
          const x = ((e.clientX - box.left) / box.width) * WIDTH;
          const y = ((e.clientY - box.top) / box.height) * HEIGHT;
          setCursor([x, y]);
          place(Math.round(x * 2) / 2, Math.round(y * 2) / 2);
        },
      }
    : { role: "img", "aria-label": "Plan of the fasteners" };
  return (
    <figure className="mat-plan">
      <svg viewBox={`0 0 ${WIDTH} ${HEIGHT}`} className={place ? "drawn-on" : ""} {...drawn}>
        <rect x="1" y="1" width={WIDTH - 2} height={HEIGHT - 2} className="plan-edge" />
        {steps.flatMap((step) =>
          step.marks.map((mark) => (
            <Hole
              key={`${step.id} ${mark.x} ${mark.y}`}
              mark={mark}
              fastener={fasteners.find(
                (f) => f.driver === step.driver && f.length_mm === mark.length_mm,
              )}
              stands={step.id === at}
              out={out?.has(step.id) ?? false}
            />
          )),
        )}
        {place && cursor && (
          <path
            className="plan-cursor"
            d={`M ${cursor[0] - 3} ${cursor[1]} h 6 M ${cursor[0]} ${cursor[1] - 3} v 6`}
          />
        )}
      </svg>
      <figcaption>
        <ul className="plan-key">
          {fasteners.map((f) => (
            <li key={f.letter}>
              <svg viewBox="-4 -4 8 8" aria-hidden="true">
                <path d={OUTLINE[f.shape] ?? ""} className="hole" />
              </svg>
              <strong>{f.letter}</strong> {f.length_mm} mm{f.driver && `, ${f.driver}`}:{" "}
              <span className="figures">
                {f.out > 0 ? `${f.out} of ${f.count} out` : `${f.count}`}
              </span>
            </li>
          ))}
        </ul>
      </figcaption>
    </figure>
  );
}

function Hole({
  mark,
  fastener,
  stands,
  out,
}: {
  mark: Mark;
  fastener: Fastener | undefined;
  stands: boolean;
  out: boolean;
}) {
  const kind = `hole ${stands ? "stands" : ""} ${out ? "out" : ""}`;
  if (mark.length_mm === null) {
    return (
      <g transform={`translate(${mark.x} ${mark.y})`}>
        <title>takes none</title>
        <path d={NONE} className="hole none" />
        <path d={`M ${-R} ${R} L ${R} ${-R}`} className="hole none" />
      </g>
    );
  }
  return (
    <g transform={`translate(${mark.x} ${mark.y})`}>
      <title>{`${fastener?.letter ?? ""} ${mark.length_mm} mm${out ? ", out" : ""}`}</title>
      <path d={OUTLINE[fastener?.shape ?? "hexagon"] ?? ""} className={kind} />
      <text x={R + 1.2} y={1.4}>
        {fastener?.letter}
      </text>
    </g>
  );
}
