import { useQueryClient } from "@tanstack/react-query";
import { useEffect, useRef, useState } from "react";
import type { Schemas } from "../api/client";
import { type SourceKind, sourceChecksQuery } from "../api/queries";
import { setLiveSource } from "../app/liveSource";
import { sendSource } from "./pageSource";
import type { SourceBody } from "./source";
import { tone } from "./tone";

export type CheckNow = Schemas["SourceCheckNow"];

/** What is tried out: which source, with which stick, and what else the page could read it by. */
export interface TrialRequest {
  jobId: number;
  model: string;
  stick: string;
  source: SourceBody;
  there: SourceKind[];
  pad: number;
}

export interface SourceCheckView {
  now: CheckNow | null;
  trouble: string | null;
  running: boolean;
  begin: (tried: TrialRequest) => void;
  finish: () => void;
}

/** A source that is tried out: the connection, the samples, and what is still to do. */
export function useSourceCheck(): SourceCheckView {
  const [now, setNow] = useState<CheckNow | null>(null);
  const [trouble, setTrouble] = useState<string | null>(null);
  const [running, setRunning] = useState(false);
  const line = useRef<WebSocket | null>(null);
  const over = useRef(() => {});
  const queries = useQueryClient();
  useEffect(() => () => over.current(), []);

  const begin = (tried: TrialRequest) => {
    over.current();
    const scheme = window.location.protocol === "https:" ? "wss" : "ws";
    const pace = new URLSearchParams(window.location.search).get("pace");
    const query = pace ? `?pace=${pace}` : "";
    const socket = new WebSocket(
      `${scheme}://${window.location.host}/api/jobs/${tried.jobId}/source-check${query}`,
    );
    let stop = () => {};
    line.current = socket;
    over.current = () => {
      socket.onclose = null;
      stop();
      socket.close();
      setLiveSource(null);
    };
    setNow(null);
    setTrouble(null);
    setRunning(true);
    const { stick, source, there } = tried;
    socket.onopen = () => socket.send(JSON.stringify({ do: "begin", stick, source, there }));
    socket.onmessage = ({ data }) => {
      const message = JSON.parse(String(data));
      if (message.type === "begun") {
        stop = sendSource(socket, message, tried.pad);
      } else if (message.type === "now") setNow(message);
      else if (message.type === "error") setTrouble(message.message);
      else if (message.type === "ended") {
        setTrouble(message.because || null);
        if (message.kept) tone("done");
        queries.invalidateQueries(sourceChecksQuery(tried.model));
      }
    };
    socket.onclose = (event) => {
      stop();
      setLiveSource(null);
      setRunning(false);
      if (event.reason) setTrouble(event.reason);
      else if (event.code === 1006) setTrouble("The connection to the server was lost.");
    };
  };

  const finish = () => {
    if (line.current?.readyState === WebSocket.OPEN) {
      line.current.send(JSON.stringify({ do: "finish" }));
    }
  };
  return { now, trouble, running, begin, finish };
}
