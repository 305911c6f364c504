import type { Schemas } from "../api/client";
import { stickName } from "../app/format";
import { Pin, pinLabel } from "../plots/Pin";

function drawn(p: Schemas["Pin"]) {
  return {
    x: p.x,
    y: p.y,
    deadZone: p.dead_zone,
    limit: p.limit,
    state: p.state,
    verdict: p.verdict,
    tells: p.tells,
  };
}

/** A controller's pins, small, as a strip shows them. */
export function Pins({ pins }: { pins: readonly Schemas["Pin"][] }) {
  return (
    <span className="strip-pins">
      {pins.map((p) => (
        <Pin key={p.stick} {...drawn(p)} label={pinLabel(p.stick, drawn(p))} />
      ))}
    </span>
  );
}

/** The same to be read at an arm's length, each with its stick. */
export function NamedPins({ pins }: { pins: readonly Schemas["Pin"][] }) {
  return (
    <ul className="known-pins">
      {pins.map((p) => (
        <li key={p.stick}>
          <Pin {...drawn(p)} size={84} label={pinLabel(p.stick, drawn(p))} />
          <span>{stickName(p.stick)}</span>
        </li>
      ))}
    </ul>
  );
}
