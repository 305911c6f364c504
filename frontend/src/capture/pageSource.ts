import type { Schemas } from "../api/client";
import { setLiveSource } from "../app/liveSource";
import { readGamepad } from "./gamepad";
import { hidOf, nameOf, readHid } from "./hid";

/** A source that the page reads: what kind, which device, and how it is read. */
export interface PageRead {
  kind: string;
  name: string;
  pad: number;
  setup: Schemas["SourceSetup"];
}

/** Read a gamepad or raw reports until told to stop; nothing where the server reads the source. */
export function readPageSource(
  { kind, name, pad, setup }: PageRead,
  send: (frame: Float64Array<ArrayBuffer>) => void,
  lost: () => void,
): () => void {
  if (kind === "gamepad") return readGamepad(pad, setup.axes, send, lost);
  if (kind !== "hid") return () => {};
  let stop = () => {};
  let over = false;
  hidOf()
    ?.getDevices()
    .then((devices) => {
      const device = devices.find((d) => nameOf(d) === name);
      if (over) return;
      if (!device) lost();
      else stop = readHid(device, Object.values(setup.fields ?? {}), send, lost);
    });
  return () => {
    over = true;
    stop();
  };
}

/** What the server says of the source that it opened for a page. */
export interface OpenedSource {
  source_kind: string;
  source_name: string;
  setup: PageRead["setup"];
}

/** Show on the rail that a source is live, and send what it says along a line until told to stop. */
export function sendSource(line: WebSocket, opened: OpenedSource, pad: number): () => void {
  const { source_kind: kind, source_name: name, setup } = opened;
  setLiveSource({ name, rateHz: null, gaps: 0, notes: {}, state: "live" });
  return readPageSource(
    { kind, name, pad, setup },
    (frame) => line.readyState === WebSocket.OPEN && line.send(frame),
    () => line.send(JSON.stringify({ do: "lost" })),
  );
}
