import type { Schemas } from "../api/client";
import { decimal } from "../app/format";
import "./takein.css";

type Check = Schemas["FunctionCheck"];
type Button = Schemas["Button"];

const SAID: Record<Button["state"], (button: Button, ended: boolean) => string> = {
  silent: (_, ended) => (ended ? "no answer" : "not yet"),
  works: () => "works",
  bounces: (b) => `bounces ${Math.round(b.bounce_ms ?? 0)} ms`,
  stuck: () => "stuck down",
  short: (b) => `reaches ${decimal(b.reach ?? 0, 0)} %`,
  hangs: (b) => `rests at ${decimal(b.rest ?? 0, 0)} %`,
  absent: () => "not on it",
};

/** Every button and trigger, and what is known of each. press: where a stand-in is pressed here. */
export function Controls({
  found,
  ended,
  press,
  pull,
}: {
  found: Check;
  ended: boolean;
  press?: (index: number) => void;
  pull?: (trigger: number) => void;
}) {
  return (
    <>
      <ul className="tiles" aria-label="Buttons">
        {found.buttons.map((b, i) => {
          const [number, click] = b.name.split(" (");
          const inside = (
            <>
              <strong>
                <span className="figures">{number}</span>
                {click && <span className="tile-click">{click.replace(")", "")}</span>}
              </strong>
              <span>{SAID[b.state](b, ended)}</span>
            </>
          );
          const shape = `tile ${b.state} ${b.down ? "down" : ""} ${ended ? "ended" : ""}`;
          return (
            <li key={b.name}>
              {press ? (
                <button type="button" className={shape} onClick={() => press(i)}>
                  {inside}
                </button>
              ) : (
                <span className={shape}>{inside}</span>
              )}
            </li>
          );
        })}
      </ul>
      {found.triggers.length > 0 && (
        <ul className="travels" aria-label="Triggers">
          {found.triggers.map((t, i) => (
            <li key={t.name} className={t.state}>
              <strong>{t.name}</strong>
              <svg viewBox="0 0 200 14" aria-hidden="true">
                <rect className="frame" x={0.5} y={0.5} width={199} height={13} />
                {t.reach !== null && t.rest !== null && (
                  <rect
                    className="travelled"
                    x={2 * (t.rest ?? 0)}
                    y={3}
                    width={Math.max(0, 2 * ((t.reach ?? 0) - (t.rest ?? 0)))}
                    height={8}
                  />
                )}
              </svg>
              <span>
                {t.state === "silent"
                  ? ended
                    ? "no answer"
                    : "not pulled yet"
                  : `rests at ${decimal(t.rest ?? 0, 0)} %, reaches ${decimal(t.reach ?? 0, 0)} %`}
              </span>
              {pull && (
                <button type="button" className="plain link" onClick={() => pull(i)}>
                  Pull it
                </button>
              )}
            </li>
          ))}
        </ul>
      )}
    </>
  );
}
