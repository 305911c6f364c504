import { useEffect, useRef } from "react";
import type uPlot from "uplot";
import { axesShown } from "./names";
import type { Band } from "./uplot";
import { useTrace } from "./useTrace";
import "./plots.css";

/** A trace on which a stretch is marked by dragging over it. */
export function SpanTrace({
  t,
  u,
  bands,
  focus,
  marked,
  height,
}: {
  t: number[];
  u: number[][];
  bands: Band[];
  focus: Band | null;
  marked: (from: number, to: number) => void;
  height: number;
}) {
  const under = useRef<HTMLParagraphElement>(null);
  const { box, plot } = useTrace({
    height,
    single: u.length < 2,
    bands: () => bands,
    focus: () => focus,
    readout: (text) => {
      if (under.current) under.current.textContent = text;
    },
    zoomed: marked,
    whole: () => undefined,
  });
  useEffect(() => {
    plot.current?.setData([t, u[0], u[1] ?? t.map(() => 0)] as unknown as uPlot.AlignedData);
  }, [t, u, plot]);
  // biome-ignore lint/correctness/useExhaustiveDependencies: the bands lie on the plot
  useEffect(() => plot.current?.redraw(false), [bands, focus, plot]);
  return (
    <>
      <p className="trace-readout figures soft" ref={under} aria-hidden="true" />
      <div
        className="trace"
        ref={box}
        role="img"
        aria-label={`${axesShown(u.length < 2)} over the whole table`}
      />
    </>
  );
}
