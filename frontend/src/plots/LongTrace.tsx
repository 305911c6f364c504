import { useQuery } from "@tanstack/react-query";
import { useEffect, useRef, useState } from "react";
import type uPlot from "uplot";
import { envelopeQuery } from "../api/queries";
import { Trouble } from "../app/parts";
import { axesShown } from "./names";
import type { Band } from "./uplot";
import { useTrace } from "./useTrace";
import "./plots.css";

const GROWS_EVERY_MS = 2_000;

/**
 * A take too long to send whole, or one that still grows: as many points as there are pixels, every
 * extreme among them, down to single samples where it is zoomed.
 */
export function LongTrace({
  takeId,
  growing,
  focus,
  bands,
  single,
  height,
}: {
  takeId: number;
  growing: boolean;
  focus: Band | null;
  bands: Band[];
  single: boolean;
  height: number;
}) {
  const [range, setRange] = useState<[number, number] | null>(null);
  const under = useRef<HTMLSpanElement>(null);
  const shownRange = useRef(range);
  shownRange.current = range;
  const { data, error } = useQuery({
    ...envelopeQuery(takeId, range?.[0] ?? null, range?.[1] ?? null),
    refetchInterval: growing && range === null ? GROWS_EVERY_MS : false,
  });

  const { box, plot } = useTrace({
    height,
    single,
    bands: () => bands,
    focus: () => focus,
    readout: (text) => {
      if (under.current) under.current.textContent = text;
    },
    zoomed: (from, to) => setRange([from, to]),
    whole: () => setRange(null),
  });

  useEffect(() => {
    const made = plot.current;
    if (!made || !data) return;
    const y = data.u[1] ?? new Float32Array(data.t.length);
    const at = shownRange.current;
    made.batch(() => {
      made.setData([data.t, data.u[0], y] as unknown as uPlot.AlignedData, at === null);
      if (at) made.setScale("x", { min: at[0], max: at[1] });
    });
  }, [data, plot]);

  useEffect(() => {
    if (!focus) {
      setRange(null);
      return;
    }
    const room = Math.max(0.25, (focus.to - focus.from) * 0.15);
    setRange([focus.from - room, focus.to + room]);
  }, [focus]);

  return (
    <>
      <p className="trace-readout figures soft">
        <span ref={under} aria-hidden="true" />{" "}
        {data && (
          <span className="trace-points">
            {data.decimated ? "least and most of each stretch" : "every sample"}
          </span>
        )}
      </p>
      <Trouble error={error} />
      <div
        className="trace"
        ref={box}
        role="img"
        aria-label={`${axesShown(single)} over ${range ? "a stretch of the take" : "the whole take"}`}
      />
    </>
  );
}
