import { useEffect, useId, useRef, useSyncExternalStore } from "react";
import { useHotkeys } from "react-hotkeys-hook";

/** A key of the present screen. does: what it is for, printed on the rail. */
export interface Key {
  key: string;
  shown: string;
  does: string;
  run: () => void;
  when?: boolean;
}

const groups = new Map<string, Key[]>();
const watchers = new Set<() => void>();
let printed: Key[] = [];

function publish(): void {
  printed = [...groups.values()].flat();
  for (const watcher of watchers) watcher();
}

/** The keys now in force, for the rail. */
export function usePrintedKeys(): Key[] {
  return useSyncExternalStore(
    (watcher) => {
      watchers.add(watcher);
      return () => watchers.delete(watcher);
    },
    () => printed,
  );
}

/** Bind keys while a screen is shown, and print them on the rail. */
export function useKeys(keys: Key[]): void {
  const id = useId();
  const active = keys.filter((k) => k.when !== false);
  const latest = useRef(active);
  latest.current = active;
  const shape = active.map((k) => `${k.key}|${k.shown}|${k.does}`).join("\n");

  // biome-ignore lint/correctness/useExhaustiveDependencies: republished when what is printed changes
  useEffect(() => {
    groups.set(id, latest.current);
    publish();
    return () => {
      groups.delete(id);
      publish();
    };
  }, [id, shape]);

  useHotkeys(
    active.map((k) => k.key),
    (event, pressed) => {
      const control = (event.target as HTMLElement | null)?.closest("button, a, summary, [role]");
      const found = latest.current.find((k) => k.key === pressed.hotkey);
      if (!found || event.repeat || (found.key === "space" && control?.closest("#mat"))) return;
      event.preventDefault();
      found.run();
    },
    { enabled: active.length > 0 },
    [shape],
  );
}
