import { useEffect, useState } from "react";
import { api, data, type Schemas } from "../api/client";
import { axisOf, type ReportField } from "./hidReport";

/** What of WebHID is used here; the browser's own types do not have it yet. */
export interface HidDevice extends EventTarget {
  opened: boolean;
  productName: string;
  vendorId: number;
  productId: number;
  collections: readonly Record<string, unknown>[];
  open(): Promise<void>;
}
interface ReportEvent extends Event {
  device: HidDevice;
  reportId: number;
  data: DataView;
}
interface Hid extends EventTarget {
  getDevices(): Promise<HidDevice[]>;
  requestDevice(options: { filters: object[] }): Promise<HidDevice[]>;
}

const GENERIC_DESKTOP = 1;
/** Joystick, gamepad, multi-axis controller. */
const STICKS = [4, 5, 8];

export function hidOf(): Hid | null {
  return (navigator as { hid?: Hid }).hid ?? null;
}

export function nameOf(device: HidDevice): string {
  const ids = [device.vendorId, device.productId].map((n) => n.toString(16).padStart(4, "0"));
  return (device.productName || `Device ${ids.join(":")}`).slice(0, 200);
}

/** A device with its axes, as the server reads them from its report descriptor. */
export interface KnownHid {
  device: HidDevice;
  name: string;
  axes: Schemas["HidAxis"][];
}

/** Plain data of a browser's object, so that it can be sent. */
function plain(value: unknown): unknown {
  if (Array.isArray(value)) return value.map(plain);
  if (value === null || typeof value !== "object") return value;
  const copy: Record<string, unknown> = {};
  for (const key in value) {
    const member = (value as Record<string, unknown>)[key];
    if (typeof member !== "function") copy[key] = plain(member);
  }
  return copy;
}

async function describe(device: HidDevice): Promise<KnownHid> {
  const collections = plain(device.collections) as Record<string, unknown>[];
  const axes = await data(api.POST("/api/sources/hid-axes", { body: { collections } }));
  return { device, name: nameOf(device), axes };
}

/** The devices that this page may read raw, and the way to be let at another. */
export function useHid(): {
  possible: boolean;
  devices: KnownHid[];
  ask: () => Promise<void>;
  trouble: string | null;
} {
  const hid = hidOf();
  const [devices, setDevices] = useState<KnownHid[]>([]);
  const [trouble, setTrouble] = useState<string | null>(null);
  useEffect(() => {
    if (!hid) return;
    let over = false;
    const look = async () => {
      try {
        const found = await Promise.all((await hid.getDevices()).map(describe));
        if (!over) setDevices(found.filter((d) => d.axes.length > 0));
      } catch (wrong) {
        if (!over) setTrouble(wrong instanceof Error ? wrong.message : String(wrong));
      }
    };
    look();
    hid.addEventListener("connect", look);
    hid.addEventListener("disconnect", look);
    return () => {
      over = true;
      hid.removeEventListener("connect", look);
      hid.removeEventListener("disconnect", look);
    };
  }, [hid]);
  const ask = async () => {
    if (!hid) return;
    setTrouble(null);
    const filters = STICKS.map((usage) => ({ usagePage: GENERIC_DESKTOP, usage }));
    try {
      const found = await Promise.all((await hid.requestDevice({ filters })).map(describe));
      const fit = found.filter((d) => d.axes.length > 0);
      if (found.length > 0 && fit.length === 0) setTrouble("That device reports no axis.");
      setDevices((before) => [
        ...before.filter((b) => !fit.some((f) => f.device === b.device)),
        ...fit,
      ]);
    } catch (wrong) {
      setTrouble(wrong instanceof Error ? wrong.message : String(wrong));
    }
  };
  return { possible: hid !== null, devices, ask, trouble };
}

const SEND_EVERY_MS = 12;
const REPEAT_AFTER_MS = 50;

/**
 * Read axes of a device, every report as it comes. What a report does not say stays as it was; a
 * device that reports changes only is said to stay every 50 ms.
 */
export function readHid(
  device: HidDevice,
  axes: readonly ReportField[],
  send: (frame: Float64Array<ArrayBuffer>) => void,
  lost: () => void,
): () => void {
  const hid = hidOf();
  const state = axes.map((a) => Math.round((a.lo + a.hi) / 2));
  let pending: number[] = [];
  let last = Number.NEGATIVE_INFINITY;
  let hasReported = false;
  const push = (at: number) => {
    last = Math.max(last, at);
    pending.push(last, ...state);
  };
  const reported = (event: Event) => {
    const { reportId, data: report } = event as ReportEvent;
    let changed = false;
    axes.forEach((axis, i) => {
      const value = axis.report === reportId ? axisOf(report, axis) : null;
      if (value === null) return;
      state[i] = value;
      changed = true;
    });
    if (!changed) return;
    hasReported = true;
    push(event.timeStamp);
  };
  const beat = setInterval(() => {
    const now = performance.now();
    if (hasReported && now - last >= REPEAT_AFTER_MS) push(now);
    if (pending.length) send(new Float64Array(pending));
    pending = [];
  }, SEND_EVERY_MS);
  const gone = (event: Event) => {
    if ((event as ReportEvent).device !== device) return;
    stop();
    lost();
  };
  const stop = () => {
    clearInterval(beat);
    device.removeEventListener("inputreport", reported);
    hid?.removeEventListener("disconnect", gone);
  };
  device.addEventListener("inputreport", reported);
  hid?.addEventListener("disconnect", gone);
  if (!device.opened) {
    device.open().catch(() => {
      stop();
      lost();
    });
  }
  return stop;
}

/** Where a device's axes stand, −1 to 1, as reports come; for finding them by moving the stick. */
export function watchHid(known: KnownHid): { now: () => number[]; stop: () => void } {
  const { device, axes } = known;
  const values = axes.map(() => Number.NaN);
  const reported = (event: Event) => {
    const { reportId, data: report } = event as ReportEvent;
    axes.forEach((axis, i) => {
      const value = axis.report === reportId ? axisOf(report, axis) : null;
      if (value !== null) values[i] = (2 * (value - axis.lo)) / (axis.hi - axis.lo) - 1;
    });
  };
  device.addEventListener("inputreport", reported);
  if (!device.opened) device.open().catch(() => undefined);
  const now = () => (values.some(Number.isNaN) ? [] : values);
  return { now, stop: () => device.removeEventListener("inputreport", reported) };
}
