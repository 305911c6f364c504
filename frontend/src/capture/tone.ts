import { isMuted } from "../app/liveSource";

let audio: AudioContext | null = null;

/** A short tone, unless muted: low for a count, high for a new step. */
export function tone(kind: "count" | "step" | "done"): void {
  sound({ count: [440], step: [660], done: [660, 880] }[kind]);
}

/** A short tone of a pitch in Hz, unless muted. */
export function beep(pitch: number): void {
  sound([pitch]);
}

function sound(pitches: number[]): void {
  if (isMuted()) return;
  try {
    audio ??= new AudioContext();
    const at = audio.currentTime;
    pitches.forEach((pitch, i) => {
      if (!audio) return;
      const oscillator = audio.createOscillator();
      const gain = audio.createGain();
      oscillator.frequency.value = pitch;
      gain.gain.setValueAtTime(0.12, at + i * 0.14);
      gain.gain.exponentialRampToValueAtTime(0.001, at + i * 0.14 + 0.12);
      oscillator.connect(gain).connect(audio.destination);
      oscillator.start(at + i * 0.14);
      oscillator.stop(at + i * 0.14 + 0.13);
    });
  } catch {
    // A machine without sound shows everything on the screen as well.
  }
}
