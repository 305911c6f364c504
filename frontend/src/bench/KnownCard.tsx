import { Link } from "react-router";
import type { Schemas } from "../api/client";
import { day } from "../app/format";
import { Words } from "../app/parts";
import { NamedPins } from "./Pins";
import "./bench.css";

/** A controller that has been here before, as it left. */
export function KnownCard({ known }: { known: Schemas["KnownController"] }) {
  const { controller, last } = known;
  return (
    <aside className="known" aria-label="Known here">
      <h2>
        <span className="figures">{controller.tag}</span> {controller.model.name}
        {controller.refer && <span className="refer-mark">refer</span>}
      </h2>
      <NamedPins pins={known.pins} />
      <p>
        {known.visits === 1 ? "One visit" : `${known.visits} visits`} so far.{" "}
        <Link to={`/controllers/${controller.id}`}>Its whole history</Link>
      </p>
      {last && (
        <dl className="facts">
          <div>
            <dt>Last, {day(last.opened_at)}</dt>
            <dd>
              <Words text={last.complaint || "Nothing was said."} />
            </dd>
          </div>
          {last.closed_at && (
            <div>
              <dt>Left, {day(last.closed_at)}</dt>
              <dd>
                <Words text={last.outcome || "No words were left."} />
              </dd>
            </div>
          )}
        </dl>
      )}
    </aside>
  );
}
