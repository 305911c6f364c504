import Button from "@mui/material/Button";
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { Link, NavLink } from "react-router";
import type { Schemas } from "../api/client";
import { trayQuery } from "../api/queries";
import { stickName } from "../app/format";
import { Trouble } from "../app/parts";
import { Pin, pinLabel } from "../plots/Pin";

const NEXT: Record<Schemas["Job"]["station"], string> = {
  prove: "Prove",
  work: "Decide",
  verify: "Verify",
  "hand-over": "Hand over",
  closed: "Closed",
};

export const PLACE: Record<Schemas["Job"]["station"], string> = {
  prove: "prove",
  work: "decide",
  verify: "verify",
  "hand-over": "hand-over",
  closed: "hand-over",
};

function Strip({ strip }: { strip: Schemas["Strip"] }) {
  const { job, pins } = strip;
  return (
    <li>
      <NavLink
        to={`/jobs/${job.id}/${PLACE[job.station]}`}
        className={() =>
          `strip ${window.location.pathname.startsWith(`/jobs/${job.id}/`) ? "here" : ""}`
        }
      >
        <span className="strip-words">
          <span>
            <strong className="figures">{job.controller.tag}</strong> {job.controller.model.name}
          </span>
          <span className="soft">
            {NEXT[job.station]} · {stickName(job.stick)}
          </span>
        </span>
        <span className="strip-pins">
          {pins.map((p) => {
            const pin = {
              x: p.x,
              y: p.y,
              deadZone: p.dead_zone,
              limit: p.limit,
              state: p.state,
              verdict: p.verdict,
              tells: p.tells,
            };
            return <Pin key={p.stick} {...pin} label={pinLabel(p.stick, pin)} />;
          })}
        </span>
      </NavLink>
    </li>
  );
}

/** The controllers on the bench, a strip each. */
export function Tray() {
  const { data: strips, error, isPending } = useQuery(trayQuery);
  const [folded, setFolded] = useState(false);
  const open = strips?.filter((s) => s.job.station !== "closed") ?? [];
  const closed = strips?.filter((s) => s.job.station === "closed") ?? [];
  return (
    <nav className={`tray ${folded ? "folded" : ""}`} aria-label="Tray">
      <div className="tray-head">
        <Link to="/" className="mark" aria-label="Hollow Pin, the bench">
          <Pin
            x={-1.6}
            y={1.2}
            deadZone={2.6}
            limit={6}
            state="measured"
            verdict="within"
            size={30}
            label=""
          />
          <strong>Hollow Pin</strong>
        </Link>
        <button
          type="button"
          className="plain"
          aria-expanded={!folded}
          aria-label={folded ? "Unfold the tray" : "Fold the tray"}
          onClick={() => setFolded(!folded)}
        >
          {folded ? "»" : "«"}
        </button>
      </div>
      <div className="tray-list">
        <Trouble error={error} />
        {isPending && <p className="soft pad">Loading…</p>}
        {strips && open.length === 0 && <p className="soft pad">Nothing on the bench.</p>}
        <ul>
          {open.map((s) => (
            <Strip key={s.job.id} strip={s} />
          ))}
        </ul>
        {closed.length > 0 && (
          <>
            <h2 className="tray-title">Closed last</h2>
            <ul className="closed">
              {closed.map((s) => (
                <Strip key={s.job.id} strip={s} />
              ))}
            </ul>
          </>
        )}
      </div>
      <div className="tray-foot">
        <p className="shop wide">
          <NavLink to="/bench-checks">Bench checks</NavLink>
          <NavLink to="/routines">Routines</NavLink>
          <NavLink to="/models">Models</NavLink>
        </p>
        <Button component={Link} to="/new" fullWidth className="new-job">
          <span className="wide">New job</span>
          <span className="narrow">+</span>
          <kbd className="wide">N</kbd>
        </Button>
      </div>
    </nav>
  );
}
