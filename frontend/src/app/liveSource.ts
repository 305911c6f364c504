import { useSyncExternalStore } from "react";

/** What the rail says of the live source; null while there is none. */
export interface LiveSource {
  name: string;
  rateHz: number | null;
  gaps: number;
  /** What its source counted on the way: garbage lines, reconnects. */
  notes: Record<string, string>;
  /** What it was found to be like, where it was tried out. */
  known?: { words: string; hides: boolean } | null;
  state: "live" | "lost";
}

let live: LiveSource | null = null;
let muted = readMuted();
const watchers = new Set<() => void>();

function readMuted(): boolean {
  try {
    return localStorage.getItem("muted") === "yes";
  } catch {
    return false;
  }
}

function watch(watcher: () => void): () => void {
  watchers.add(watcher);
  return () => watchers.delete(watcher);
}

function tell(): void {
  for (const watcher of watchers) watcher();
}

export function setLiveSource(source: LiveSource | null): void {
  live = source;
  tell();
}

export function useLiveSource(): LiveSource | null {
  return useSyncExternalStore(watch, () => live);
}

export function isMuted(): boolean {
  return muted;
}

export function setMuted(value: boolean): void {
  muted = value;
  try {
    localStorage.setItem("muted", value ? "yes" : "no");
  } catch {
    // A browser that keeps nothing still mutes until it is closed.
  }
  tell();
}

export function useMuted(): boolean {
  return useSyncExternalStore(watch, () => muted);
}
