import { Link } from "react-router";
import type { Schemas } from "../api/client";
import { day, decimal } from "../app/format";

/** How far this bench is known to see, and how old that knowledge is. */
export function TrustNote({ trust, take }: { trust: Schemas["Trust"]; take: Schemas["Take"] }) {
  if (take.source_kind === "file") return null;
  if (trust.study_id === null || !trust.completed_at) {
    return (
      <>
        {" "}
        · <Link to="/bench-checks">no bench check yet</Link>
      </>
    );
  }
  const smallest = trust.smallest_change["composite.dead_zone_needed"];
  return (
    <>
      {" "}
      ·{" "}
      <Link to={`/bench-checks/${trust.study_id}`}>
        {trust.stale ? "bench check overdue, of " : "bench check of "}
        {day(trust.completed_at)}
        {smallest !== undefined && `: sees ${decimal(smallest)} %`}
      </Link>
    </>
  );
}
