import { useEffect, useRef } from "react";
import type uPlot from "uplot";
import type { Schemas } from "../api/client";
import type { Samples } from "../api/samples";
import { stepLabel } from "./steps";
import { type Band, makeTrace } from "./uplot";

/** The counted steps of a take as bands. */
export function stepBands(readings: Schemas["TakeReadings"]): Band[] {
  return Object.entries(readings.spans)
    .map(([step, s]) => ({ from: s.from_s, to: s.to_s, label: stepLabel(step) }))
    .sort((a, b) => a.from - b.from);
}

/**
 * The raw samples, whole or zoomed to the part a number came from. Drag to zoom, double-click for
 * the whole.
 */
export function Trace({
  samples,
  readings,
  focus,
  height,
}: {
  samples: Samples;
  readings: Schemas["TakeReadings"];
  focus: Band | null;
  height: number;
}) {
  const box = useRef<HTMLDivElement>(null);
  const under = useRef<HTMLParagraphElement>(null);
  const plot = useRef<uPlot | null>(null);
  const shown = useRef({ readings, focus });
  shown.current = { readings, focus };

  useEffect(() => {
    const host = box.current;
    if (!host) return;
    const made = makeTrace(host, {
      height,
      single: samples.u.length < 2,
      bands: () => stepBands(shown.current.readings),
      marks: () => shown.current.readings.let_go?.release.map((r) => r.t_s) ?? [],
      spikes: () => shown.current.readings.still?.spike.map((s) => s.t_s) ?? [],
      focus: () => shown.current.focus,
      readout: (text) => {
        if (under.current) under.current.textContent = text;
      },
    });
    plot.current = made;
    const y = samples.u[1] ?? new Float32Array(samples.t.length).fill(0);
    made.setData([samples.t, samples.u[0], y] as unknown as uPlot.AlignedData);
    const resize = new ResizeObserver(() => made.setSize({ width: host.clientWidth, height }));
    resize.observe(host);
    const dark = new MutationObserver(() => made.redraw(false));
    dark.observe(document.documentElement, { attributeFilter: ["data-theme"] });
    return () => {
      resize.disconnect();
      dark.disconnect();
      made.destroy();
      plot.current = null;
    };
  }, [samples, height]);

  useEffect(() => {
    const made = plot.current;
    if (!made) return;
    if (!focus) {
      made.setData(made.data, true);
      return;
    }
    const room = Math.max(0.25, (focus.to - focus.from) * 0.15);
    made.setScale("x", { min: focus.from - room, max: focus.to + room });
  }, [focus]);

  return (
    <>
      <p className="trace-readout figures soft" ref={under} aria-hidden="true" />
      <div
        className="trace"
        ref={box}
        role="img"
        aria-label={focus ? `x and y over time: ${focus.label}` : "x and y over the whole take"}
      />
    </>
  );
}
