import type { Schemas } from "../api/client";

export type HidAxis = Schemas["HidAxis"];

/** The bits of a report that are an axis, as a whole number; null where it says there is none. */
export function axisOf(report: DataView, axis: HidAxis): number | null {
  let value = 0;
  for (let i = 0; i < axis.size; i++) {
    const bit = axis.bit + i;
    const byte = bit >> 3;
    if (byte >= report.byteLength) return null;
    // No shift: the 32nd bit would make it negative.
    if ((report.getUint8(byte) >> (bit & 7)) & 1) value += 2 ** i;
  }
  if (axis.lo < 0 && value >= 2 ** (axis.size - 1)) value -= 2 ** axis.size;
  return value < axis.lo || value > axis.hi ? null : value;
}

/** The axes of a take that runs, from how it was begun. */
export function axesOfTake(headers: Record<string, string>): HidAxis[] {
  return ["x", "y"].flatMap((name) => {
    const layout = headers[`hid.${name}`]?.split(",").map(Number);
    if (layout?.length !== 5) return [];
    const [report = 0, bit = 0, size = 8, lo = 0, hi = 0] = layout;
    return [{ name, report, bit, size, lo, hi }];
  });
}
