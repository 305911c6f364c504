import { useQuery } from "@tanstack/react-query";
import { NavLink } from "react-router";
import { openingQuery } from "../api/queries";
import "./work.css";

/** The three parts of the work, and how far the shell is. */
export function WorkNav({ jobId }: { jobId: number }) {
  const { data: view } = useQuery(openingQuery(jobId));
  const far = view?.opening
    ? `${view.opens.out} of ${view.opens.steps} steps`
    : view && view.before > 0
      ? "shut"
      : "";
  return (
    <nav className="work-nav" aria-label="Work">
      <NavLink to={`/jobs/${jobId}/open`}>
        Open the shell {far && <span className="figures soft">{far}</span>}
      </NavLink>
      <NavLink to={`/jobs/${jobId}/work`}>Put work on record</NavLink>
      <NavLink to={`/jobs/${jobId}/shut`}>
        Check and close {view?.opening && <span className="soft">open</span>}
      </NavLink>
    </nav>
  );
}
