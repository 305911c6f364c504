import { useEffect, useState } from "react";

export interface Pad {
  index: number;
  id: string;
  axes: number;
  buttons: number;
  standard: boolean;
  shakes: boolean;
}

function connected(): Pad[] {
  if (!navigator.getGamepads) return [];
  return Array.from(navigator.getGamepads())
    .filter((p): p is Gamepad => p?.connected === true)
    .map((p) => ({
      index: p.index,
      id: p.id,
      axes: p.axes.length,
      buttons: p.buttons.length,
      standard: p.mapping === "standard",
      shakes: Boolean(p.vibrationActuator),
    }));
}

/** The controllers the browser sees. A browser shows one only after a button on it was pressed. */
export function useGamepads(): Pad[] {
  const [pads, setPads] = useState<Pad[]>(connected);
  useEffect(() => {
    const look = () => setPads(connected());
    window.addEventListener("gamepadconnected", look);
    window.addEventListener("gamepaddisconnected", look);
    look();
    return () => {
      window.removeEventListener("gamepadconnected", look);
      window.removeEventListener("gamepaddisconnected", look);
    };
  }, []);
  return pads;
}

const SEND_EVERY_MS = 12;
const REPEAT_AFTER_MS = 50;

/**
 * Read one stick as fast as the browser has news of it, not at the screen's rate.
 *
 * Every report is kept with its own timestamp. A browser that reports changes only is asked again
 * every 50 ms, so that a stick that does not move is seen not to move.
 */
export function readGamepad(
  index: number,
  axes: number[],
  send: (frame: Float64Array<ArrayBuffer>) => void,
  lost: () => void,
): () => void {
  let pending: number[] = [];
  let reported = Number.NEGATIVE_INFINITY;
  let last = Number.NEGATIVE_INFINITY;
  let lastState: number[] = [];
  let sentAt = performance.now();

  const flush = (now: number) => {
    if (pending.length) send(new Float64Array(pending));
    pending = [];
    sentAt = now;
  };
  const look = (pad: Gamepad, now: number) => {
    const values = axes.map((a) => clamp(pad.axes[a] ?? 0));
    const fresh = pad.timestamp > reported;
    const changed = values.some((v, i) => v !== lastState[i]);
    if (fresh || changed || now - last >= REPEAT_AFTER_MS) {
      const at = Math.max(last, fresh ? pad.timestamp : now);
      pending.push(at, ...values);
      reported = Math.max(reported, pad.timestamp);
      last = at;
      lastState = values;
    }
    if (now - sentAt >= SEND_EVERY_MS) flush(now);
  };
  return follow(index, look, () => {
    flush(performance.now());
    lost();
  });
}

/**
 * Look at a controller about a thousand times a second until it is gone or the returned function is
 * called. gone: it was unplugged.
 *
 * A timer that a timer sets has to wait four milliseconds; one that a message sets need not. The
 * message alone would keep a whole processor busy, and is for a page that is not seen, whose timers
 * are held back.
 */
export function follow(
  index: number,
  look: (pad: Gamepad, now: number) => void,
  gone: () => void,
): () => void {
  const channel = new MessageChannel();
  let over = false;
  const stop = () => {
    over = true;
    channel.port1.onmessage = null;
    channel.port1.close();
    window.removeEventListener("gamepaddisconnected", unplugged);
  };
  const end = () => {
    if (over) return;
    stop();
    gone();
  };
  const again = () => {
    if (!over) channel.port2.postMessage(null);
  };
  const unplugged = (event: GamepadEvent) => {
    if (event.gamepad.index === index) end();
  };
  channel.port1.onmessage = () => {
    const pad = navigator.getGamepads()[index];
    if (!pad?.connected) {
      end();
      return;
    }
    look(pad, performance.now());
    if (document.hidden) again();
    else setTimeout(again, 1);
  };
  window.addEventListener("gamepaddisconnected", unplugged);
  channel.port2.postMessage(null);
  return () => {
    if (!over) stop();
  };
}

function clamp(value: number): number {
  return Math.min(1, Math.max(-1, value));
}
