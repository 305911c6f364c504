import { useQuery } from "@tanstack/react-query";
import {
  NavLink,
  Outlet,
  useLocation,
  useNavigate,
  useOutletContext,
  useParams,
} from "react-router";
import type { Schemas } from "../api/client";
import { lasting } from "../api/problem";
import { catalogueQuery, jobQuery } from "../api/queries";
import { useKeys } from "../app/keys";
import { Loading, NotShown, Page } from "../app/parts";
import { Ledger } from "../ledger/Ledger";
import "./job.css";

const STATIONS = [
  ["take-in", "Take in"],
  ["prove", "Prove"],
  ["decide", "Decide"],
  ["work", "Work"],
  ["verify", "Verify"],
  ["hand-over", "Hand over"],
] as const;

const REACHED: Record<Schemas["Job"]["station"], number> = {
  prove: 1,
  decide: 2,
  verify: 4,
  "hand-over": 5,
  closed: 6,
};

/** The job that the present page belongs to. */
export function useJobView(): Schemas["JobView"] {
  return useOutletContext<Schemas["JobView"]>();
}

/** What moves people, vehicles, lifting gear or medical equipment says so on every page. */
function ReferBanner() {
  const { data: catalogue } = useQuery(catalogueQuery);
  return (
    <p className="refer-note refer-banner" role="note">
      <strong>Refer.</strong> {catalogue?.take_in.refer}
    </p>
  );
}

/** Pages that belong to Work beside its own. */
const OF_WORK = /\/(open|shut)$/;

/** A job's mat: the order of work across the top, the ledger on the right. */
export function JobMat() {
  const { jobId, takeId } = useParams();
  const { pathname } = useLocation();
  const id = Number(jobId);
  const { data: view, error } = lasting(
    useQuery({
      ...jobQuery(id),
      enabled: Number.isInteger(id) && id > 0,
    }),
  );
  const navigate = useNavigate();
  const to = (place: string) => () => navigate(`/jobs/${id}/${place}`);
  useKeys([
    { key: "t", shown: "T", does: "take", run: to("prove"), when: !!view },
    { key: "l", shown: "L", does: "log work", run: to("work"), when: !!view },
    { key: "c", shown: "C", does: "compare", run: to("verify"), when: !!view },
  ]);
  if (error) return <NotShown title="This job cannot be shown." error={error} />;
  if (!view) {
    return Number.isInteger(id) ? (
      <Loading what="the job" />
    ) : (
      <Page title="There is no such job." />
    );
  }
  const reached = REACHED[view.job.station];
  const stage = view.takes.find((t) => t.id === Number(takeId))?.stage;
  const ofTake = stage === undefined ? null : stage === "as received" ? "prove" : "verify";
  const station = OF_WORK.test(pathname) ? "work" : ofTake;
  return (
    <div className="job">
      <nav className="stations" aria-label="Order of work">
        {STATIONS.map(([place, label], i) => {
          const next = place === view.next.place && view.job.station !== "closed";
          const done = i < reached && !next;
          return (
            <NavLink
              key={place}
              to={`/jobs/${id}/${place}`}
              className={({ isActive }) =>
                `station ${isActive || place === station ? "active" : ""}`
              }
            >
              <span className={`station-mark ${done ? "done" : ""}`} aria-hidden="true" />
              {label}
              <span className="hidden">{done ? ", done" : next ? ", next" : ", to come"}</span>
            </NavLink>
          );
        })}
      </nav>
      <div className="job-work">
        {view.job.controller.refer && <ReferBanner />}
        <Outlet context={view} />
      </div>
      <Ledger view={view} />
    </div>
  );
}
