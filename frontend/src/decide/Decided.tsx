import { Link } from "react-router";
import type { Schemas } from "../api/client";
import { moment, share } from "../app/format";

/** Decisions so far, and what became of each. */
export function Decided({ outcomes }: { outcomes: readonly Schemas["Outcome"][] }) {
  if (outcomes.length === 0) return null;
  return (
    <section className="block" aria-label="Decided so far">
      <h2 className="decide-title">
        Decided so far <Link to="/decisions">How often that was right</Link>
      </h2>
      <ul className="rows">
        {outcomes.map((o) => (
          <Row key={o.decision.id} outcome={o} />
        ))}
      </ul>
    </section>
  );
}

/** among: whether it stands among the decisions of other jobs, and says whose it is. */
export function Row({ outcome: o, among }: { outcome: Schemas["Outcome"]; among?: boolean }) {
  return (
    <li>
      <span className="figures soft">{moment(o.decision.decided_at)}</span>
      {among && (
        <>
          <strong>{o.tag}</strong>
          <span>{o.cause}</span>
        </>
      )}
      <Link to={`/jobs/${o.decision.job_id}/takes/${o.take_after ?? o.decision.take_id}`}>
        {o.label}
      </Link>
      {o.chance !== null && <span className="soft">told {share(o.chance)} to mend it</span>}
      <span className={o.held === false ? "over" : ""}>{o.became}</span>
      {o.against_advice && <span className="soft">against the advice: {o.decision.reason}</span>}
    </li>
  );
}
