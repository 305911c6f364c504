import { Link } from "react-router";
import type { Schemas } from "../api/client";
import { moment } from "../app/format";
import { Page } from "../app/parts";
import { NumbersTable } from "../plots/parts";
import { Controls } from "./Controls";

const STATE = { "": "not tried", works: "works", faulty: "faulty" } as const;

/** A function check that has ended: what was found, and what is not as it was. */
export function CheckResult({
  view,
  found,
}: {
  view: Schemas["JobView"];
  found: Schemas["FunctionCheckView"];
}) {
  const { check, changes, against } = found;
  const complete = check.ended_because === null;
  return (
    <Page title={found.found.sentence}>
      <p className="meta soft">
        {check.kind === "final" ? "Before it goes" : "As it came"} · {check.source_name} ·{" "}
        {moment(check.started_at)}
        {!complete && ` · interrupted: ${check.ended_because}`}
      </p>
      {against && <p className="lead">{against}</p>}
      {changes.length > 0 && (
        <NumbersTable
          caption="What is not as it was when it came"
          head={["", "When it came", "Now"]}
          rows={changes.map((c) => [c.name, c.before, c.after])}
        />
      )}
      {found.found.open.length > 0 && (
        <p>
          Not tried: {found.found.open.join(", ")}.{" "}
          {!complete && "What was pressed before it was interrupted is kept."}
        </p>
      )}
      <Controls found={found.found} ended={complete} />
      {found.found.items.length > 0 && (
        <ul className="rows">
          {found.found.items.map((i) => (
            <li key={i.name}>
              <span>{i.name}:</span>
              <span className={i.state === "faulty" ? "over" : ""}>
                {STATE[i.state]}
                {i.note && `, ${i.note}`}
              </span>
            </li>
          ))}
        </ul>
      )}
      <p className="actions">
        <Link to={`/jobs/${view.job.id}/${check.kind === "final" ? "hand-over" : "take-in"}`}>
          {check.kind === "final" ? "Back to Hand over" : "Back to Take in"}
        </Link>
        {view.job.closed_at === null && (
          <Link to={`/jobs/${view.job.id}/check?kind=${check.kind}`}>Check again</Link>
        )}
      </p>
    </Page>
  );
}
