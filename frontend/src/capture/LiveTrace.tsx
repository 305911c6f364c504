import { useEffect, useRef } from "react";
import type uPlot from "uplot";
import { axesShown } from "../plots/names";
import { makeTrace } from "../plots/uplot";
import { type Recent, WINDOW_S } from "./live";

/** Often enough for the eye; the time between is for reading the controller. */
const DRAW_EVERY_MS = 60;

/** The last seconds, drawn as they come. */
export function LiveTrace({ recent, single }: { recent: Recent; single: boolean }) {
  const box = useRef<HTMLDivElement>(null);
  useEffect(() => {
    const host = box.current;
    if (!host) return;
    let plot: uPlot | null = makeTrace(host, { height: 170, fixed: true, single });
    let frame = 0;
    let drawn = 0;
    const draw = (now: number) => {
      frame = requestAnimationFrame(draw);
      if (now - drawn < DRAW_EVERY_MS) return;
      const [t, x, y] = recent.window();
      if (!plot || t.length < 2) return;
      drawn = now;
      plot.batch(() => {
        plot?.setData([t, x, y] as unknown as uPlot.AlignedData, false);
        const end = Math.max(t[t.length - 1] as number, WINDOW_S);
        plot?.setScale("x", { min: end - WINDOW_S, max: end });
      });
    };
    frame = requestAnimationFrame(draw);
    const resize = new ResizeObserver(() =>
      plot?.setSize({ width: host.clientWidth, height: 170 }),
    );
    resize.observe(host);
    return () => {
      cancelAnimationFrame(frame);
      resize.disconnect();
      plot?.destroy();
      plot = null;
    };
  }, [recent, single]);
  return (
    <div
      className="trace"
      ref={box}
      role="img"
      aria-label={`The last twelve seconds of ${axesShown(single)}`}
    />
  );
}
