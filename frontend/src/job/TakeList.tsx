import { Link } from "react-router";
import type { Schemas } from "../api/client";
import { moment, sourceName, stickName } from "../app/format";
import { StageMark } from "../plots/stage";

const STATE: Record<Schemas["Take"]["state"], string> = {
  importing: "coming in",
  recording: "running",
  complete: "",
  interrupted: "interrupted",
};

/** The takes of a job, oldest first. */
export function TakeList({ view }: { view: Schemas["JobView"] }) {
  if (view.takes.length === 0) return null;
  return (
    <section className="block">
      <h2>Takes in this job</h2>
      <ul className="rows">
        {view.takes.map((take) => (
          <li key={take.id}>
            <StageMark stage={take.mark} />
            <Link to={`/jobs/${view.job.id}/takes/${take.id}`}>
              Take {take.id}: {stickName(take.stick)}, {take.stage}
            </Link>
            <span className="soft">
              {moment(take.started_at)} · {sourceName(take.source_kind, take.source_name)}
              {STATE[take.state] && ` · ${STATE[take.state]}`}
              {take.state !== "recording" && !take.usable && " · not usable"}
            </span>
          </li>
        ))}
      </ul>
    </section>
  );
}
