import { useEffect, useRef, useState } from "react";
import type { Schemas } from "../api/client";
import { openLine } from "../app/line";
import { tone } from "../capture/tone";

type Progress = Schemas["Progress"];

type Said =
  | (Progress & { type: "now" })
  | { type: "ended"; jig_id: number | null; because: string }
  | { type: "error"; message: string };

export interface JigView {
  progress: Progress | null;
  running: boolean;
  /** What was kept of the last one; null where nothing was. */
  jigId: number | null;
  trouble: string | null;
  begin: (port: string) => void;
  say: (what: "accept" | "stop") => void;
  forget: () => void;
}

/** A module on the jig: led through what is asked of it by the server that reads the port. */
export function useJig(inspection: number): JigView {
  const [progress, setProgress] = useState<Progress | null>(null);
  const [running, setRunning] = useState(false);
  const [jigId, setJigId] = useState<number | null>(null);
  const [trouble, setTrouble] = useState<string | null>(null);
  const line = useRef<WebSocket | null>(null);
  useEffect(
    () => () => {
      if (line.current) {
        line.current.onclose = null;
        line.current.close();
      }
    },
    [],
  );

  const begin = (port: string) => {
    setProgress(null);
    setTrouble(null);
    setJigId(null);
    setRunning(true);
    const socket = openLine<Said>(`/api/inspections/${inspection}/jig`, {
      message: (message) => {
        if (message.type === "now") setProgress(message);
        else if (message.type === "ended") {
          setJigId(message.jig_id);
          setTrouble(message.because || null);
          if (message.jig_id !== null) tone("done");
        } else setTrouble(message.message);
      },
      closed: (because) => {
        setRunning(false);
        if (because) setTrouble(because);
      },
    });
    line.current = socket;
    socket.onopen = () => socket.send(JSON.stringify({ port }));
  };
  const say = (what: "accept" | "stop") => {
    if (line.current?.readyState === WebSocket.OPEN) {
      line.current.send(JSON.stringify({ do: what }));
    }
  };
  return { progress, running, jigId, trouble, begin, say, forget: () => setJigId(null) };
}
