import { useEffect, useRef } from "react";
import type uPlot from "uplot";
import type { Schemas } from "../api/client";
import type { Samples } from "../api/samples";
import { axesShown } from "./names";
import { stepLabel } from "./steps";
import type { Band } from "./uplot";
import { useTrace } from "./useTrace";
import "./plots.css";

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
  const under = useRef<HTMLParagraphElement>(null);
  const { box, plot } = useTrace({
    height,
    single: samples.u.length < 2,
    bands: () => stepBands(readings),
    marks: () => readings.let_go?.release.map((r) => r.t_s) ?? [],
    spikes: () => readings.still?.spike.map((s) => s.t_s) ?? [],
    focus: () => focus,
    readout: (text) => {
      if (under.current) under.current.textContent = text;
    },
  });

  // biome-ignore lint/correctness/useExhaustiveDependencies: a plot of another height is a new one
  useEffect(() => {
    const y = samples.u[1] ?? new Float32Array(samples.t.length).fill(0);
    plot.current?.setData([samples.t, samples.u[0], y] as unknown as uPlot.AlignedData);
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
  }, [focus, plot]);

  return (
    <>
      <p className="trace-readout figures soft" ref={under} aria-hidden="true" />
      <div
        className="trace"
        ref={box}
        role="img"
        aria-label={`${axesShown(samples.u.length < 2)} over ${focus ? `time: ${focus.label}` : "the whole take"}`}
      />
    </>
  );
}
