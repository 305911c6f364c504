import { useEffect, useRef, useState } from "react";
import type { Schemas } from "../api/client";
import { setLiveSource } from "../app/liveSource";
import { LiveTake, type Progress, Recent, type StepName, type TakeEnd } from "./live";
import { readPageSource } from "./pageSource";
import { tone } from "./tone";

export interface LiveView {
  progress: Progress | null;
  ended: TakeEnd | null;
  trouble: string | null;
  recent: Recent;
  accept: () => void;
  redo: (step?: StepName) => void;
  stop: () => void;
  steer: (aim: { x: number; y: number } | null) => void;
}

/** How a page asks for a take: with which pad, and who moves a stand-in. */
export interface LiveRequest {
  pad: number;
  hand: string;
  name: string;
  /** What its source was found to be like. */
  known: { words: string; hides: boolean } | null;
  setup: Schemas["SourceSetup"];
}

/** What counts as one more of something, for the tone. */
const counted = (p: Progress) =>
  p.step === "still" ? 0 : p.parts.reduce((sum, part) => sum + Math.floor(part.done), 0);

/** A running take: the connection, the source, and what the tracker says. */
export function useLiveTake(
  take: Schemas["Take"],
  { pad, hand, name, known, setup }: LiveRequest,
  steps: StepName[],
): LiveView {
  const [progress, setProgress] = useState<Progress | null>(null);
  const [ended, setEnded] = useState<TakeEnd | null>(null);
  const [trouble, setTrouble] = useState<string | null>(null);
  const recent = useRef(new Recent());
  const live = useRef<LiveTake | null>(null);
  const stepList = steps.join(",");
  const setupNow = useRef(setup);
  setupNow.current = setup;
  const knownNow = useRef(known);
  knownNow.current = known;
  const { id, source_kind: kind } = take;

  useEffect(() => {
    const query = new URLSearchParams(kind === "stand-in" ? { hand } : {});
    const pace = new URLSearchParams(window.location.search).get("pace");
    if (pace) query.set("pace", pace);
    for (const step of stepList ? stepList.split(",") : []) query.append("step", step);
    recent.current = new Recent();
    let before: Progress | null = null;
    let notes: Record<string, string> = {};
    let over = false;
    let stopReading = () => {};
    const socket = new LiveTake(id, query, {
      progress: (p, said) => {
        if (before && p.step !== before.step) tone(p.finished ? "done" : "step");
        else if (before && counted(p) > counted(before)) tone("count");
        before = p;
        notes = said;
        setProgress(p);
      },
      samples: (t, u) => recent.current.add(t, u),
      ended: (how) => {
        over = true;
        setEnded(how);
      },
      error: setTrouble,
      heldUp: setTrouble,
      closed: (because) => {
        stopReading();
        setLiveSource({ name, rateHz: null, gaps: 0, notes: {}, state: "lost" });
        if (!over) setEnded({ state: "interrupted", because });
      },
    });
    live.current = socket;
    stopReading = readPageSource(
      { kind, name, pad, setup: setupNow.current },
      (frame) => socket.send(frame),
      () => socket.say({ do: "lost" }),
    );
    const health = setInterval(() => {
      const { rateHz, gaps } = recent.current;
      setLiveSource({ name, rateHz, gaps, notes, known: knownNow.current, state: "live" });
    }, 500);
    return () => {
      clearInterval(health);
      stopReading();
      socket.close();
      setLiveSource(null);
    };
  }, [id, kind, name, pad, hand, stepList]);

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
