import Button from "@mui/material/Button";
import { useEffect, useRef, useState } from "react";
import type { Schemas } from "../api/client";
import "./capture.css";

export type Axes = Schemas["AxisMapping"];

const PUSHED = 0.55;
const BACK = 0.3;

/** Which axis of a pad left its place by more than half, and which way. */
function moved(now: readonly number[], rest: readonly number[], but: number | null) {
  let farthest: { axis: number; by: number } | null = null;
  now.forEach((value, axis) => {
    const by = value - (rest[axis] ?? 0);
    if (axis !== but && Math.abs(by) > Math.max(PUSHED, Math.abs(farthest?.by ?? 0))) {
      farthest = { axis, by };
    }
  });
  return farthest as { axis: number; by: number } | null;
}

type Stage = { ask: "right" } | { ask: "back" | "up"; x: number; flipX: boolean };

/** Where a controller's axes stand now, −1 to 1, none before it is known; stop ends the reading. */
export interface Watched {
  now: () => readonly number[];
  stop: () => void;
}

/** Finds a stick's axes by having it pushed to the right, then up. watch: begins to read the axes. */
export function AxisFinder({
  watch,
  stick,
  single,
  found,
}: {
  watch: () => Watched;
  stick: string;
  single: boolean;
  found: (axes: Axes) => void;
}) {
  const [stage, setStage] = useState<Stage | null>(null);
  const rest = useRef<readonly number[]>([]);
  const tell = useRef(found);
  tell.current = found;
  const watched = useRef<Watched | null>(null);
  useEffect(() => () => watched.current?.stop(), []);
  useEffect(() => {
    if (stage === null) {
      watched.current?.stop();
      watched.current = null;
    }
  }, [stage]);

  useEffect(() => {
    if (!stage) return;
    let frame = 0;
    const look = () => {
      const axes = watched.current?.now() ?? [];
      // Where they stand before anything is pushed is known with the first report.
      if (rest.current.length === 0) rest.current = [...axes];
      if (stage.ask === "right") {
        const hit = moved(axes, rest.current, null);
        if (hit) {
          const flipX = hit.by < 0;
          if (single) {
            tell.current({ stick, axis_x: hit.axis, axis_y: null, flip_x: flipX, flip_y: false });
            setStage(null);
          } else setStage({ ask: "back", x: hit.axis, flipX });
          return;
        }
      } else if (stage.ask === "back") {
        if (Math.abs((axes[stage.x] ?? 0) - (rest.current[stage.x] ?? 0)) < BACK) {
          setStage({ ...stage, ask: "up" });
          return;
        }
      } else {
        const hit = moved(axes, rest.current, stage.x);
        if (hit) {
          tell.current({
            stick,
            axis_x: stage.x,
            axis_y: hit.axis,
            flip_x: stage.flipX,
            flip_y: hit.by > 0,
          });
          setStage(null);
          return;
        }
      }
      frame = requestAnimationFrame(look);
    };
    frame = requestAnimationFrame(look);
    return () => cancelAnimationFrame(frame);
  }, [stage, single, stick]);

  if (!stage) {
    return (
      <Button
        size="small"
        onClick={() => {
          watched.current = watch();
          rest.current = [];
          setStage({ ask: "right" });
        }}
      >
        Find the axes by moving it
      </Button>
    );
  }
  const what = single ? stick : `${stick} stick`.replace("stick stick", "stick");
  const says = {
    right: `Push the ${what} to the right, and keep it there.`,
    back: "Let it come back.",
    up: `Now push the ${what} up.`,
  }[stage.ask];
  return (
    <p className="finder">
      <strong role="status">{says}</strong>{" "}
      <Button size="small" onClick={() => setStage(null)}>
        Never mind
      </Button>
    </p>
  );
}
