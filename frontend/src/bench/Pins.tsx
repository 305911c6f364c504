import type { Schemas } from "../api/client";
import { stickName } from "../app/format";
import { Pin, pinLabel, pinProps } from "../plots/Pin";
import "./bench.css";

/** A controller's pins, small, as a strip shows them. */
export function Pins({ pins }: { pins: readonly Schemas["Pin"][] }) {
  return (
    <span className="strip-pins">
      {pins.map((p) => (
        <Pin key={p.stick} {...pinProps(p)} label={pinLabel(p.stick, pinProps(p))} />
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
          <Pin {...pinProps(p)} size={84} label={pinLabel(p.stick, pinProps(p))} />
          <span>{stickName(p.stick)}</span>
        </li>
      ))}
    </ul>
  );
}
