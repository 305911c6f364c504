import { useSyncExternalStore } from "react";

/** The bench role that acts at this window; it goes on record with everything done here. */
let role = read();
const watchers = new Set<() => void>();

function read(): string {
  try {
    return localStorage.getItem("role") ?? "";
  } catch {
    return "";
  }
}

export function benchRole(): string {
  return role;
}

export function setBenchRole(value: string): void {
  role = value.trim().slice(0, 200);
  try {
    localStorage.setItem("role", role);
  } catch {
    // A browser that keeps nothing still knows it until it is closed.
  }
  for (const watcher of watchers) watcher();
}

export function useBenchRole(): string {
  return useSyncExternalStore(
    (watcher) => {
      watchers.add(watcher);
      return () => watchers.delete(watcher);
    },
    () => role,
  );
}
