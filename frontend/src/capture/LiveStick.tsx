import { type PointerEvent, useEffect, useRef } from "react";
import { decimal } from "../app/format";
import { type Gate, GateOutline } from "../plots/gate";
import type { Recent } from "./live";
import "./capture.css";

const REACH = 118;
/** As often as somebody can read a number. */
const SAY_EVERY_MS = 100;
const ARROWS: Record<string, [number, number]> = {
  ArrowUp: [0, 1],
  ArrowDown: [0, -1],
  ArrowLeft: [-1, 0],
  ArrowRight: [1, 0],
};

type Steer = (aim: { x: number; y: number } | null) => void;

/** Hold the stand-in's stick with the arrow keys; two together push to a corner. */
function useArrows(steer: Steer | undefined): void {
  const latest = useRef(steer);
  latest.current = steer;
  const on = steer !== undefined;
  useEffect(() => {
    if (!on) return;
    const pressedKeys = new Set<string>();
    const aim = () => {
      let x = 0;
      let y = 0;
      for (const key of pressedKeys) {
        x += ARROWS[key]?.[0] ?? 0;
        y += ARROWS[key]?.[1] ?? 0;
      }
      const length = Math.hypot(x, y);
      latest.current?.(length ? { x: (REACH * x) / length, y: (REACH * y) / length } : null);
    };
    const down = (event: KeyboardEvent) => {
      if (!(event.key in ARROWS)) return;
      event.preventDefault();
      if (!event.repeat) {
        pressedKeys.add(event.key);
        aim();
      }
    };
    const up = (event: KeyboardEvent) => {
      if (pressedKeys.delete(event.key)) aim();
    };
    window.addEventListener("keydown", down);
    window.addEventListener("keyup", up);
    return () => {
      window.removeEventListener("keydown", down);
      window.removeEventListener("keyup", up);
    };
  }, [on]);
}

/** Where the stick is now; for a visitor, the place to hold it. */
export function LiveStick({
  recent,
  gate,
  single,
  steer,
}: {
  recent: Recent;
  gate: Gate;
  single: boolean;
  steer: Steer | undefined;
}) {
  const dot = useRef<SVGGElement>(null);
  const words = useRef<HTMLElement>(null);
  const holding = useRef(false);
  useArrows(steer);
  useEffect(() => {
    let frame = 0;
    let writtenAt = 0;
    const draw = (now: number) => {
      const at = recent.position();
      if (at) dot.current?.setAttribute("transform", `translate(${at.x} ${-at.y})`);
      if (at && words.current && now - writtenAt >= SAY_EVERY_MS) {
        writtenAt = now;
        const x = `x ${decimal(at.x).padStart(6)}`;
        words.current.textContent = single ? `${x} %` : `${x}   y ${decimal(at.y).padStart(6)} %`;
      }
      frame = requestAnimationFrame(draw);
    };
    frame = requestAnimationFrame(draw);
    return () => cancelAnimationFrame(frame);
  }, [recent, single]);

  const pull = (event: PointerEvent<SVGSVGElement>) => {
    if (!steer || !holding.current) return;
    const box = event.currentTarget.getBoundingClientRect();
    const x = (((event.clientX - box.left) / box.width) * 2 - 1) * 125;
    const y = -(((event.clientY - box.top) / box.height) * 2 - 1) * 125;
    const length = Math.hypot(x, y);
    const most = length > 92 ? REACH / length : 1;
    steer({ x: x * most, y: single ? 0 : y * most });
  };
  const drop = () => {
    if (holding.current) steer?.(null);
    holding.current = false;
  };
  return (
    <figure className="live-stick">
      <svg
        viewBox="-125 -125 250 250"
        className={steer ? "held" : ""}
        role="img"
        aria-label="Where the stick is now"
        onPointerDown={(e) => {
          if (!steer) return;
          holding.current = true;
          e.currentTarget.setPointerCapture(e.pointerId);
          pull(e);
        }}
        onPointerMove={pull}
        onPointerUp={drop}
        onPointerCancel={drop}
      >
        {single ? (
          <path className="gate" d="M-100 -12V12M100 -12V12M-100 0H100" />
        ) : (
          <>
            <GateOutline gate={gate} />
            <circle className="limit" r={8} />
            <path className="cross" d="M-100 0H100M0 -100V100" />
          </>
        )}
        <g ref={dot}>
          <circle className="now" r={6} />
        </g>
      </svg>
      <figcaption>
        <span className="figures" ref={words}>
          x – %
        </span>
        {steer && <span className="soft"> Drag inside the ring, or hold arrow keys.</span>}
      </figcaption>
    </figure>
  );
}
