import type { Schemas } from "../api/client";

export type KnownCalibration = Schemas["OwnCalibration"] | "unknown" | null;

/** Low, centre and high of an axis, as they were typed. */
export type Typed = [string, string, string];

/** Whether a device's numbers are calibrated; where they are not, what its calibration holds. */
export interface Own {
  says: "calibrated" | "known" | "unknown";
  x: Typed;
  y: Typed;
}

export const CALIBRATED: Own = { says: "calibrated", x: ["", "", ""], y: ["", "", ""] };

const typed = (of: Schemas["AxisHolds"] | null | undefined): Typed =>
  of ? [String(of.low), String(of.centre), String(of.high)] : ["", "", ""];

/** What the server knows, as it is shown. */
export function ownOf(held: KnownCalibration | undefined): Own {
  if (!held) return CALIBRATED;
  if (held === "unknown") return { ...CALIBRATED, says: "unknown" };
  return { says: "known", x: typed(held.x), y: typed(held.y) };
}

function numbers(of: Typed): Schemas["AxisHolds"] | null {
  const [low, centre, high] = of.map((text) => (text.trim() === "" ? Number.NaN : Number(text)));
  const all = [low, centre, high].every((v) => Number.isFinite(v));
  return all ? { low: low as number, centre: centre as number, high: high as number } : null;
}

/** What is sent of it; undefined while numbers are missing. */
export function heldBy(own: Own, axes: number): KnownCalibration | undefined {
  if (own.says === "calibrated") return null;
  if (own.says === "unknown") return "unknown";
  const x = numbers(own.x);
  const y = axes === 2 ? numbers(own.y) : null;
  return x && (axes === 1 || y) ? { x, y } : undefined;
}
