import type { Schemas } from "../api/client";
import type { PinProps } from "../plots/Pin";

/** The pin of a take: a paddle has no rest, and shows how much it trembles. */
export function pinOf(view: Schemas["TakeView"]): Omit<PinProps, "size" | "label"> {
  const { readings, values, limits } = view;
  const turn = Boolean(readings?.turn);
  const path = turn ? "turn.jitter" : "composite.dead_zone_needed";
  return {
    x: turn ? 0 : readings?.still?.rest_x,
    y: turn ? 0 : (readings?.still?.rest_y ?? 0),
    deadZone: values[path],
    limit: limits[path]?.limit ?? 8,
    verdict: limits[path]?.verdict,
    state: values[path] === undefined ? "unusable" : "measured",
    tells: turn ? path : undefined,
  };
}
