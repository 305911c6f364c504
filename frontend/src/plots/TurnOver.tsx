import { useState } from "react";
import { useKeys } from "../app/keys";
import "./plots.css";

/** The two sides of a take: where it rests and reaches, and what lies along the way. */
export type Group = "rest" | "track";

const SIDES: [Group, string][] = [
  ["rest", "Rest, returns and reach"],
  ["track", "Track, hold and noise"],
];

/**
 * Which side of a take is shown, and the switch between them; no switch where there is one side only.
 * sides: what there is to show of each.
 */
export function useTurnOver(sides: Partial<Record<Group, unknown>>) {
  const [group, setGroup] = useState<Group>(sides.rest ? "rest" : "track");
  const both = sides.rest !== undefined && sides.track !== undefined;
  useKeys([
    {
      key: "v",
      shown: "V",
      does: "rest or track",
      run: () => setGroup(group === "rest" ? "track" : "rest"),
      when: both,
    },
  ]);
  const turnOver = both && (
    <div className="turn-over" role="group" aria-label="What is shown">
      {SIDES.map(([side, label]) => (
        <button
          key={side}
          type="button"
          aria-pressed={group === side}
          onClick={() => setGroup(side)}
        >
          {label}
        </button>
      ))}
      <kbd>V</kbd>
    </div>
  );
  return { group, turnOver };
}
