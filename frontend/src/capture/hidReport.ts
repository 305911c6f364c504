import type { Schemas } from "../api/client";

/** Where an axis lies in a report. */
export type ReportField = Schemas["ReportField"];

/** The bits of a report that are an axis, as a whole number; null where it says there is none. */
export function axisOf(report: DataView, axis: ReportField): number | null {
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
