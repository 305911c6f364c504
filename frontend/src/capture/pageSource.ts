import { readGamepad } from "./gamepad";
import { hidOf, nameOf, readHid } from "./hid";
import { axesOfTake } from "./hidReport";

type Headers = Record<string, string>;

/** A source that the page reads: what kind, which device, which of its axes. */
export interface PageRead {
  kind: string;
  name: string;
  pad: number;
  axes: number[];
  headers: Headers;
}

export const axesOf = (headers: Headers): number[] =>
  (headers["source-axes"] ?? "0,1").split(",").map(Number);

/** Read a gamepad or raw reports until told to stop; nothing where the server reads the source. */
export function readPageSource(
  { kind, name, pad, axes, headers }: PageRead,
  send: (frame: Float64Array<ArrayBuffer>) => void,
  lost: () => void,
): () => void {
  if (kind === "gamepad") return readGamepad(pad, axes, send, lost);
  if (kind !== "hid") return () => {};
  let stop = () => {};
  let over = false;
  hidOf()
    ?.getDevices()
    .then((devices) => {
      const device = devices.find((d) => nameOf(d) === name);
      if (over) return;
      if (!device) lost();
      else stop = readHid(device, axesOfTake(headers), send, lost);
    });
  return () => {
    over = true;
    stop();
  };
}
