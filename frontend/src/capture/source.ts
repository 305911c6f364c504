import { useQuery } from "@tanstack/react-query";
import type { Schemas } from "../api/client";
import {
  catalogueQuery,
  mappingsQuery,
  ownCalibrationsQuery,
  type SourceKind,
  sourcesQuery,
} from "../api/queries";
import { type Pad, useGamepads } from "./gamepad";
import { type KnownHid, useHid } from "./hid";
import { heldBy, type Own, ownOf } from "./own";

export type SourceBody = Schemas["NewTake"]["source"];
type Axes = Schemas["AxisMapping"];
type Stick = Schemas["ModelStick"];

/** What each kind of source is called. */
export function useSourceLabel(): (kind: SourceKind) => string {
  const { data: catalogue } = useQuery(catalogueQuery);
  return (kind) => catalogue?.sources.find((s) => s.kind === kind)?.label ?? kind;
}

/** What has been chosen about the source; null where the usual one counts. */
export interface Choice {
  kind: SourceKind | null;
  pad: number | null;
  device: string | null;
  /** A raw device, by its name in the browser or its path on the machine. */
  raw: string | null;
  port: string | null;
  condition: string;
  hand: "own" | "visitor";
  axes: Record<string, Axes>;
  /** What calibrates the numbers of each stick. */
  own: Record<string, Own>;
}

export const NO_CHOICE: Choice = {
  kind: null,
  pad: null,
  device: null,
  raw: null,
  port: null,
  condition: "",
  hand: "own",
  axes: {},
  own: {},
};

export interface SourceState {
  kind: SourceKind;
  /** What a take by it is said to come from. */
  name: string;
  /** Other kinds by which the same controller could be read from here. */
  there: SourceKind[];
  pads: Pad[];
  pad: Pad | undefined;
  offered: Schemas["Sources"] | undefined;
  device: Schemas["Device"] | undefined;
  port: Schemas["Port"] | undefined;
  hid: ReturnType<typeof useHid>;
  raw: KnownHid | undefined;
  rawDevice: Schemas["RawDevice"] | undefined;
  conditions: Schemas["ConditionInfo"][];
  /** Whether it gives the device's own numbers, which may not be calibrated. */
  ownNumbers: boolean;
  /** Which axes a stick is on: as found, as remembered, or as such controllers usually have it. */
  axesOf: (stick: Stick) => Axes;
  /** What calibrates its numbers: as chosen, or as the last time. */
  ownOf: (stick: Stick) => Own;
  /** What to ask the server for; null while it is not ready. */
  body: (stick: Stick) => SourceBody | null;
}

/** The sources there are, and what the choice among them amounts to. */
export function useSource(view: Schemas["JobView"], choice: Choice): SourceState {
  const model = view.job.controller.model;
  const pads = useGamepads();
  const { data: offered } = useQuery(sourcesQuery);
  const { data: catalogue } = useQuery(catalogueQuery);
  const last = view.takes.filter((t) => t.source_kind !== "file").at(-1);
  const kind =
    choice.kind ?? last?.source_kind ?? (pads.length ? "gamepad" : ("stand-in" as SourceKind));
  const pad = pads.find((p) => p.index === choice.pad) ?? pads[0];
  const device =
    offered?.event_devices.find((d) => d.path === choice.device) ?? offered?.event_devices[0];
  const port = offered?.serial.find((p) => p.path === choice.port) ?? offered?.serial[0];
  const hid = useHid();
  const raw = hid.devices.find((d) => d.name === choice.raw) ?? hid.devices[0];
  const rawDevice =
    offered?.raw_devices.find((d) => d.path === choice.raw) ?? offered?.raw_devices[0];
  const named: Partial<Record<SourceKind, string | undefined>> = {
    "stand-in": "Stand-in",
    serial: port?.name,
    gamepad: padName(pad),
    "event-device": device?.name,
    hid: raw?.name,
    hidraw: rawDevice?.name,
  };
  const name = named[kind] ?? "";
  const { data: remembered } = useQuery(
    mappingsQuery({ model_id: model.id, source_kind: kind, source_name: name }),
  );
  const ownNumbers = catalogue?.sources.find((s) => s.kind === kind)?.own_numbers ?? false;
  const { data: held } = useQuery({
    ...ownCalibrationsQuery(view.job.id, view.job.controller.id, kind),
    enabled: ownNumbers,
  });
  const own = (stick: Stick): Own =>
    choice.own[stick.name] ?? ownOf(held?.find((h) => h.stick === stick.name)?.holds);
  const axesOf = (stick: Stick): Axes => {
    const mapping = choice.axes[stick.name] ?? remembered?.find((m) => m.stick === stick.name);
    if (mapping) return mapping;
    const place = Math.max(
      0,
      model.sticks.findIndex((s) => s.name === stick.name),
    );
    const codes = device?.axes.map((a) => a.code) ?? [];
    const axis = (i: number) => (kind === "event-device" ? (codes[i] ?? i) : i);
    return {
      stick: stick.name,
      axis_x: axis(2 * place),
      axis_y: stick.axes === 2 ? axis(2 * place + 1) : null,
      flip_x: false,
      flip_y: false,
    };
  };
  const body = (stick: Stick): SourceBody | null => {
    const { stick: _, ...axes } = axesOf(stick);
    if (kind === "gamepad" && pad) return { kind, name: padName(pad), ...axes };
    const own_calibration = heldBy(own(stick), stick.axes);
    if (ownNumbers && own_calibration === undefined) return null;
    const by = { ...axes, own_calibration };
    if (kind === "hid" && raw) return { kind, name: raw.name, axes: raw.axes, ...by };
    if (kind === "hidraw" && rawDevice) return { kind, path: rawDevice.path, ...by };
    if (kind === "event-device" && device) return { kind, path: device.path, ...by };
    if (kind === "serial" && port) return { kind, port: port.path };
    if (kind === "stand-in") return { kind, condition: choice.condition || null };
    return null;
  };
  const there: SourceKind[] = [];
  if (hid.possible) there.push("hid");
  if (offered?.event_devices.length) there.push("event-device");
  if (offered?.raw_devices.length) there.push("hidraw");
  return {
    kind,
    name,
    there,
    pads,
    pad,
    offered,
    device,
    port,
    hid,
    raw,
    rawDevice,
    conditions: catalogue?.conditions ?? [],
    ownNumbers,
    axesOf,
    ownOf: own,
    body,
  };
}

export function padName(pad: Pad | undefined): string {
  return pad ? pad.id.slice(0, 200) || `Controller ${pad.index + 1}` : "";
}
