import { type RefObject, useEffect, useRef } from "react";
import type uPlot from "uplot";
import { makeTrace, type TraceOptions } from "./uplot";

/** A trace in a box: made once, as wide as its box, drawn again when the light changes. What the options
 * give is asked for anew at every drawing. */
export function useTrace(options: TraceOptions): {
  box: RefObject<HTMLDivElement | null>;
  plot: RefObject<uPlot | null>;
} {
  const box = useRef<HTMLDivElement>(null);
  const plot = useRef<uPlot | null>(null);
  const latest = useRef(options);
  latest.current = options;
  const { height, single } = options;
  const zooms = options.zoomed !== undefined;
  const fetches = options.whole !== undefined;

  useEffect(() => {
    const host = box.current;
    if (!host) return;
    const now = () => latest.current;
    const trace = makeTrace(host, {
      height,
      single,
      bands: () => now().bands?.() ?? [],
      marks: () => now().marks?.() ?? [],
      spikes: () => now().spikes?.() ?? [],
      focus: () => now().focus?.() ?? null,
      readout: (text) => now().readout?.(text),
      ...(zooms && { zoomed: (from: number, to: number) => now().zoomed?.(from, to) }),
      ...(fetches && { whole: () => now().whole?.() }),
    });
    plot.current = trace;
    const resize = new ResizeObserver(() => trace.setSize({ width: host.clientWidth, height }));
    resize.observe(host);
    const dark = new MutationObserver(() => trace.redraw(false));
    dark.observe(document.documentElement, { attributeFilter: ["data-theme"] });
    return () => {
      resize.disconnect();
      dark.disconnect();
      trace.destroy();
      plot.current = null;
    };
  }, [height, single, zooms, fetches]);
  return { box, plot };
}
