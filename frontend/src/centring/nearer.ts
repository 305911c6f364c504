import { beep, tone } from "../capture/tone";
import type { Now } from "./useCentring";

const EVERY_MS = 450;
const LOWEST_HZ = 220;
const OCTAVES = 2;
/** How many times what can be seen it is off, at which the sound is at its lowest. */
const FAR = 16;

/** The pitch for how far it is off: the nearer the higher, an octave for each factor of four. */
export function pitchOf(excess: number): number {
  const far = Math.log2(Math.min(Math.max(excess, 1), FAR)) / Math.log2(FAR);
  return LOWEST_HZ * 2 ** (OCTAVES * (1 - far));
}

/** Tell nearer from farther by ear, so that the eyes stay on the board. */
export function nearer(): (now: Now) => void {
  let last = 0;
  let state = "";
  return (now) => {
    const at = performance.now();
    if (now.state === "done" && state !== "done") tone("done");
    else if (now.returns > 0 && now.state === "settled" && state !== "settled") tone("step");
    else if ((now.state === "turning" || now.state === "turned") && at - last >= EVERY_MS) {
      last = at;
      beep(pitchOf(now.excess));
    }
    state = now.state;
  };
}
