import { useQueryClient } from "@tanstack/react-query";
import { useEffect, useRef, useState } from "react";
import type { Schemas } from "../api/client";
import { type SourceKind, sourceChecksQuery } from "../api/queries";
import { openLine } from "../app/line";
import { setLiveSource } from "../app/liveSource";
import { type OpenedSource, sendSource } from "./pageSource";
import type { SourceBody } from "./source";
import { tone } from "./tone";

export type CheckNow = Schemas["SourceCheckNow"];

type Said =
  | (OpenedSource & { type: "begun" })
  | (CheckNow & { type: "now" })
  | { type: "ended"; kept: boolean; because: string }
  | { type: "error"; message: string };

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
    const pace = new URLSearchParams(window.location.search).get("pace");
    const query = pace ? `?pace=${pace}` : "";
    let stop = () => {};
    const socket = openLine<Said>(`/api/jobs/${tried.jobId}/source-check${query}`, {
      message: (message) => {
        if (message.type === "begun") {
          stop = sendSource(socket, message, tried.pad);
        } else if (message.type === "now") setNow(message);
        else if (message.type === "error") setTrouble(message.message);
        else if (message.type === "ended") {
          setTrouble(message.because || null);
          if (message.kept) tone("done");
          queries.invalidateQueries(sourceChecksQuery(tried.model));
        }
      },
      closed: (because) => {
        stop();
        setLiveSource(null);
        setRunning(false);
        if (because) setTrouble(because);
      },
    });
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
  };

  const finish = () => {
    if (line.current?.readyState === WebSocket.OPEN) {
      line.current.send(JSON.stringify({ do: "finish" }));
    }
  };
  return { now, trouble, running, begin, finish };
}
