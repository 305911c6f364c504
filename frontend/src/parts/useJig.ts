import { useEffect, useRef, useState } from "react";
import type { Schemas } from "../api/client";
import { tone } from "../capture/tone";

type Progress = Schemas["Progress"];

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

/** A module on the jig: led through the quick routine by the server that reads the port. */
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
    const scheme = window.location.protocol === "https:" ? "wss" : "ws";
    const socket = new WebSocket(
      `${scheme}://${window.location.host}/api/inspections/${inspection}/jig`,
    );
    line.current = socket;
    setProgress(null);
    setTrouble(null);
    setJigId(null);
    setRunning(true);
    socket.onopen = () => socket.send(JSON.stringify({ port }));
    socket.onmessage = ({ data }) => {
      const message = JSON.parse(String(data));
      if (message.type === "now") setProgress(message);
      else if (message.type === "ended") {
        setJigId(message.jig_id);
        setTrouble(message.because || null);
        if (message.jig_id !== null) tone("done");
      }
    };
    socket.onclose = (event) => {
      setRunning(false);
      if (event.reason) setTrouble(event.reason);
    };
  };
  const say = (what: "accept" | "stop") => {
    if (line.current?.readyState === WebSocket.OPEN) {
      line.current.send(JSON.stringify({ do: what }));
    }
  };
  return { progress, running, jigId, trouble, begin, say, forget: () => setJigId(null) };
}
