import { useState } from "react";
import type { Schemas } from "../api/client";
import { share } from "../app/format";
import { WhichPart } from "./WhichPart";

/** The causes as bars, each opening to what speaks for it and against it. */
export function Causes({
  causes,
  sensors,
}: {
  causes: readonly Schemas["CauseShown"][];
  sensors: readonly Schemas["ModelSensor"][];
}) {
  const [open, setOpen] = useState<string | null>(null);
  return (
    <section aria-label="What is wrong">
      <h2 className="decide-title">
        What is wrong <span className="soft">each by its own probability</span>
      </h2>
      <ul className="causes">
        {causes.map((c) => {
          const { cause, probability, axis } = c.ranked;
          const isOpen = open === cause;
          return (
            <li key={cause} className={isOpen ? "open" : ""}>
              <button
                type="button"
                className="cause"
                aria-expanded={isOpen}
                onClick={() => setOpen(isOpen ? null : cause)}
              >
                <span className="cause-name">
                  {c.name}
                  {axis && <span className="soft figures"> {axis}</span>}
                </span>
                <svg className="cause-bar" viewBox="0 0 200 12" aria-hidden="true">
                  <line className="axis-line" x1={0} x2={200} y1={6} y2={6} />
                  <line className="cause-half" x1={100} x2={100} y1={1} y2={11} />
                  <rect
                    className={cause === "sound" ? "sound" : ""}
                    x={0}
                    y={2}
                    width={200 * probability}
                    height={8}
                  />
                </svg>
                <span className="figures cause-share">{share(probability)}</span>
              </button>
              {isOpen && <Why cause={c} sensors={sensors} />}
            </li>
          );
        })}
      </ul>
    </section>
  );
}

/** Evidence, the weightiest first, on one line of weight: against to the left, for to the right. */
function Why({
  cause,
  sensors,
}: {
  cause: Schemas["CauseShown"];
  sensors: readonly Schemas["ModelSensor"][];
}) {
  const { evidence } = cause.ranked;
  const most = Math.max(1, ...evidence.map((e) => Math.abs(e.weight)));
  return (
    <div className="why">
      <div className="why-head">
        <p>
          {cause.shows}
          {cause.where && ` It would be ${cause.where}.`}
        </p>
        {cause.ranked.axis && <WhichPart axis={cause.ranked.axis} sensors={sensors} />}
      </div>
      {evidence.length === 0 && (
        <p className="soft">Nothing measured speaks for it or against it.</p>
      )}
      <table>
        <caption className="hidden">What speaks for and against {cause.name}</caption>
        <tbody>
          {evidence.slice(0, 7).map((e) => (
            <tr key={e.words}>
              <td>{e.speaks_for ? "for" : "against"}</td>
              <td className="why-bar">
                <svg viewBox="0 0 120 10" aria-hidden="true">
                  <line className="axis-line" x1={60} x2={60} y1={0} y2={10} />
                  <rect
                    className={e.speaks_for ? "" : "against-it"}
                    x={e.weight > 0 ? 60 : 60 - (58 * -e.weight) / most}
                    y={2}
                    width={(58 * Math.abs(e.weight)) / most}
                    height={6}
                  />
                </svg>
              </td>
              <td className="figures why-weight">
                {e.weight > 0 ? "+" : "−"}
                {Math.abs(e.weight).toFixed(1)}
              </td>
              <td>{e.words}</td>
            </tr>
          ))}
        </tbody>
      </table>
    </div>
  );
}
