import { useEffect, useRef, useState } from "react";
import { setLiveSource } from "../app/rail";
import { readGamepad } from "./gamepad";
import { type Ended, LiveTake, type Progress, Recent, type StepName } from "./live";
import { tone } from "./tone";

export interface LiveView {
  progress: Progress | null;
  ended: Ended | null;
  trouble: string | null;
  recent: Recent;
  accept: () => void;
  redo: (step?: StepName) => void;
  stop: () => void;
  steer: (aim: { x: number; y: number } | null) => void;
}

const counted = (p: Progress) =>
  p.step === "still" ? 0 : Math.floor(p.counts.reduce((sum, c) => sum + Math.floor(c), 0));

/** A running take: the connection, the source, and what the tracker says. */
export function useLiveTake(
  takeId: number,
  source: { kind: string; name: string; pad: number; axis: number; hand: string },
  steps: StepName[],
): LiveView {
  const [progress, setProgress] = useState<Progress | null>(null);
  const [ended, setEnded] = useState<Ended | null>(null);
  const [trouble, setTrouble] = useState<string | null>(null);
  const recent = useRef(new Recent());
  const live = useRef<LiveTake | null>(null);
  const stepList = steps.join(",");
  const { kind, name, pad, axis, hand } = source;

  useEffect(() => {
    const query = new URLSearchParams(kind === "stand-in" ? { hand } : {});
    const pace = new URLSearchParams(window.location.search).get("pace");
    if (pace) query.set("pace", pace);
    for (const step of stepList ? stepList.split(",") : []) query.append("step", step);
    recent.current = new Recent();
    let before: Progress | null = null;
    let over = false;
    let stopReading = () => {};
    const take = new LiveTake(takeId, query, {
      progress: (p) => {
        if (before && p.step !== before.step) tone(p.finished ? "done" : "step");
        else if (before && counted(p) > counted(before)) tone("count");
        before = p;
        setProgress(p);
      },
      samples: (t, u) => recent.current.add(t, u),
      ended: (how) => {
        over = true;
        setEnded(how);
      },
      error: setTrouble,
      closed: (reason) => {
        stopReading();
        setLiveSource({ name, rateHz: null, gaps: 0, state: "lost" });
        if (!over) setEnded({ state: "interrupted", because: reason });
      },
    });
    live.current = take;
    if (kind === "gamepad") {
      stopReading = readGamepad(
        pad,
        axis,
        (frame) => take.send(frame),
        () => take.say({ do: "lost" }),
      );
    }
    const health = setInterval(() => {
      const { rateHz, gaps } = recent.current;
      setLiveSource({ name, rateHz, gaps, state: "live" });
    }, 500);
    return () => {
      clearInterval(health);
      stopReading();
      take.close();
      setLiveSource(null);
    };
  }, [takeId, kind, name, pad, axis, hand, stepList]);

  const say = (command: Record<string, unknown>) => live.current?.say(command);
  return {
    progress,
    ended,
    trouble,
    recent: recent.current,
    accept: () => say({ do: "accept" }),
    redo: (step) => say({ do: "redo", step: step ?? null }),
    stop: () => say({ do: "stop" }),
    steer: (aim) => say({ do: "steer", ...(aim ?? {}) }),
  };
}
