import { useId, useLayoutEffect, useRef, useSyncExternalStore } from "react";
import { useHotkeys } from "react-hotkeys-hook";

/** A key of the present screen, or several with a comma between. does: what for, printed on the rail. */
export interface Key {
  key: string;
  shown: string;
  does: string;
  run: (pressed: string) => void;
  when?: boolean;
}

interface Group {
  keys: Key[];
  alone: boolean;
}

const groups = new Map<string, Group>();
const watchers = new Set<() => void>();
let printed: Key[] = [];

function someoneAlone(): boolean {
  return [...groups.values()].some((group) => group.alone);
}

/** The newest screen's keys come first. */
function publish(): void {
  printed = [...groups.values()]
    .filter((group) => group.alone || !someoneAlone())
    .reverse()
    .flatMap((group) => group.keys);
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

/**
 * Bind keys while a screen is shown, and print them on the rail. alone: no other screen's keys count
 * meanwhile, so that a stray key does not leave a running take.
 */
export function useKeys(keys: Key[], alone = false): void {
  const id = useId();
  const active = keys.filter((k) => k.when !== false);
  const latest = useRef(active);
  latest.current = active;
  const shape = active.map((k) => `${k.key}|${k.shown}|${k.does}`).join("\n");

  // Before it is painted: whoever sees a screen may press its keys.
  // biome-ignore lint/correctness/useExhaustiveDependencies: republished when what is printed changes
  useLayoutEffect(() => {
    groups.set(id, { keys: latest.current, alone });
    publish();
    return () => {
      groups.delete(id);
      publish();
    };
  }, [id, shape, alone]);

  useHotkeys(
    active.flatMap((k) => k.key.split(",")),
    (event, pressed) => {
      const control = (event.target as HTMLElement | null)?.closest("button, a, summary, [role]");
      const key = latest.current.find((k) => k.key.split(",").includes(pressed.hotkey));
      if (
        !key ||
        event.repeat ||
        (!alone && someoneAlone()) ||
        (key.key === "space" && control?.closest("#mat"))
      )
        return;
      event.preventDefault();
      key.run(pressed.hotkey);
    },
    { enabled: active.length > 0 },
    [shape],
  );
}
