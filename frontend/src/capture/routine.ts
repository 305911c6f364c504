import type { Schemas } from "../api/client";

export type Shape = Schemas["RoutineView"]["usual_for"][number];

/** The kind of stick, as routines know it. */
export function shapeOf(stick: Pick<Schemas["ModelStick"], "axes" | "sprung">): Shape {
  if (stick.axes === 2) return "two-axes";
  return stick.sprung ? "lever" : "paddle";
}
