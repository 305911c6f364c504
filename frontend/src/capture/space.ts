/** What Space does while a routine runs, by the code it is told as: in the row of keys, and on a button. */
export const SPACE = {
  none: "",
  start: "start",
  accept: "accept and go on",
  redo: "do it again",
} as const;
export const SPACE_BUTTON = { start: "Start", accept: "Accept", redo: "Do it again" } as const;
