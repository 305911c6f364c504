import { useEffect, useRef, useState } from "react";
import type { Schemas } from "../api/client";
import { openLine } from "../app/line";
import { setLiveSource } from "../app/liveSource";
import { sendSource } from "../capture/pageSource";
import { nearer } from "./nearer";

export type Now = Schemas["CentringNow"];

interface Begun {
  take_id: number;
  stick: string;
  source_kind: string;
  source_name: string;
  setup: Schemas["SourceSetup"];
  axes: number;
}

type Said =
  | (Begun & { type: "begun" })
  | (Now & { type: "now" })
  | { type: "ended"; centring_id: number | null; because: string }
  | { type: "error"; message: string };

export interface CentringView {
  begun: Begun | null;
  now: Now | null;
  /** Why it is over; empty where it was finished. */
  ended: { centringId: number | null; because: string } | null;
  trouble: string | null;
  say: (command: Record<string, unknown>) => void;
}

/** A stick that is centred by hand: the connection, the source, and what is read. */
export function useCentring(jobId: number, kind: string, pad: number): CentringView {
  const [begun, setBegun] = useState<Begun | null>(null);
  const [now, setNow] = useState<Now | null>(null);
  const [ended, setEnded] = useState<CentringView["ended"]>(null);
  const [trouble, setTrouble] = useState<string | null>(null);
  const socket = useRef<WebSocket | null>(null);

  useEffect(() => {
    const query = new URLSearchParams({ kind });
    const pace = new URLSearchParams(window.location.search).get("pace");
    if (pace) query.set("pace", pace);
    let stop = () => {};
    const sounder = nearer();
    const line = openLine<Said>(`/api/jobs/${jobId}/centring?${query}`, {
      message: (message) => {
        if (message.type === "begun") {
          setBegun(message);
          stop = sendSource(line, message, pad);
        } else if (message.type === "now") {
          sounder(message);
          setNow(message);
        } else if (message.type === "ended") {
          setEnded({ centringId: message.centring_id, because: message.because });
        } else if (message.type === "error") setTrouble(message.message);
      },
      closed: (because) => {
        stop();
        setLiveSource(null);
        setEnded((before) => before ?? { centringId: null, because: because ?? "" });
      },
    });
    socket.current = line;
    return () => {
      line.onclose = null;
      stop();
      line.close();
      setLiveSource(null);
    };
  }, [jobId, kind, pad]);

  const say = (command: Record<string, unknown>) => {
    if (socket.current?.readyState === WebSocket.OPEN) socket.current.send(JSON.stringify(command));
  };
  return { begun, now, ended, trouble, say };
}
