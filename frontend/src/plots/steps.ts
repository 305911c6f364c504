import type { Schemas } from "../api/client";

export type StepName = Schemas["Routine"]["steps"][number];

export const STEP_LABEL: Record<StepName, string> = {
  still: "Still",
  "let-go": "Let-go",
  rim: "Rim",
  "crossing-x": "Crossing x",
  "crossing-y": "Crossing y",
  hold: "Hold",
  turn: "Turn",
};

/** The name a step or anything else that has problems goes by. */
export function stepLabel(step: string): string {
  return step in STEP_LABEL ? STEP_LABEL[step as StepName] : "Take";
}
