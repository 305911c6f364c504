import type { Schemas } from "../api/client";
import { follow } from "../capture/gamepad";

export type ControlEvent = Schemas["NewEvents"]["events"][number];

const SEND_EVERY_MS = 120;
const AXIS_STEP = 0.01;
const MOST_AT_ONCE = 5000;

/**
 * Follow a controller's buttons and some of its axes as fast as the browser has news of them, and hand
 * on what changed: first where everything is, then every change with its time.
 */
export function followControls(
  pad: number,
  axes: readonly number[],
  send: (events: ControlEvent[]) => void,
  lost: () => void,
): () => void {
  const lastValues = new Map<string, number>();
  const began = performance.now();
  const pending: ControlEvent[] = [];
  let sentAt = 0;
  const flush = (now: number) => {
    if (pending.length) send(pending.splice(0, MOST_AT_ONCE));
    sentAt = now;
  };
  const note = (
    at: number,
    control: "button" | "axis",
    index: number,
    value: number,
    step: number,
  ) => {
    const before = lastValues.get(control + index);
    if (before !== undefined && (value === before || Math.abs(value - before) < step)) return;
    lastValues.set(control + index, value);
    pending.push([at, control, index, value]);
  };
  const look = (found: Gamepad, now: number) => {
    const at = Math.max(0, now - began);
    found.buttons.forEach((b, i) => {
      const value = Math.min(1, Math.max(0, b.value > 0 ? b.value : Number(b.pressed)));
      note(at, "button", i, value, value === 0 || value === 1 ? 0 : AXIS_STEP);
    });
    for (const axis of axes) {
      const value = Math.min(1, Math.max(-1, found.axes[axis] ?? 0));
      note(at, "axis", axis, value, Math.abs(value) === 1 ? 0 : AXIS_STEP);
    }
    if (now - sentAt >= SEND_EVERY_MS) flush(now);
  };
  const stop = follow(pad, look, () => {
    flush(performance.now());
    lost();
  });
  return () => {
    flush(performance.now());
    stop();
  };
}

/** Shakes a controller for most of a second, where the browser can. */
export async function shake(pad: number): Promise<boolean> {
  const motor = navigator.getGamepads()[pad]?.vibrationActuator;
  if (!motor) return false;
  try {
    await motor.playEffect("dual-rumble", {
      duration: 800,
      strongMagnitude: 1,
      weakMagnitude: 1,
    });
    return true;
  } catch {
    return false;
  }
}
