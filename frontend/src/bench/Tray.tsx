import Button from "@mui/material/Button";
import useMediaQuery from "@mui/material/useMediaQuery";
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { Link, NavLink } from "react-router";
import { catalogueQuery, countsQuery, openStations, pairingQuery, trayQuery } from "../api/queries";
import { Trouble } from "../app/parts";
import { Pin } from "../plots/Pin";
import { FindBox } from "./FindBox";
import { Strip } from "./Strip";
import "./bench.css";

/** The controllers on the bench, a strip each, by what is next. It folds by itself where the window is
 * narrow, until somebody says otherwise. */
export function Tray() {
  const { data: strips, error, isPending } = useQuery(trayQuery);
  const { data: counts } = useQuery(countsQuery);
  const { data: catalogue } = useQuery(catalogueQuery);
  const { data: pairing } = useQuery(pairingQuery);
  const narrow = useMediaQuery("(max-width: 860px)");
  const [chosen, setChosen] = useState<boolean | null>(null);
  const folded = chosen ?? narrow;
  const closed = strips?.filter((s) => s.station === "closed") ?? [];
  const open = strips?.filter((s) => s.station !== "closed") ?? [];
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
          onClick={() => setChosen(!folded)}
        >
          {folded ? "»" : "«"}
        </button>
      </div>
      {!folded && <FindBox />}
      <div className="tray-list">
        <Trouble error={error} />
        {isPending && <p className="soft pad">Loading…</p>}
        {strips && open.length === 0 && <p className="soft pad">Nothing on the bench.</p>}
        {openStations(catalogue).map(({ station, label }) => {
          const here = open.filter((s) => s.station === station);
          const all = counts?.stations[station] ?? here.length;
          if (here.length === 0 && all === 0) return null;
          return (
            <section key={station} aria-label={label}>
              <h2 className="tray-title">
                {label} <span className="figures">{all}</span>
              </h2>
              <ul>
                {here.map((s) => (
                  <Strip key={s.job_id} strip={s} under={label} />
                ))}
              </ul>
              {all > here.length && (
                <Link className="tray-more" to={`/find?station=${station}`}>
                  {all - here.length} more
                </Link>
              )}
            </section>
          );
        })}
        {closed.length > 0 && (
          <section aria-label="Closed last">
            <h2 className="tray-title">Closed last</h2>
            <ul className="closed">
              {closed.map((s) => (
                <Strip key={s.job_id} strip={s} under={s.next} />
              ))}
            </ul>
          </section>
        )}
      </div>
      <div className="tray-foot">
        <p className="shop wide">
          <NavLink to="/parts">Parts</NavLink>
          <NavLink to="/bench-checks">Bench checks</NavLink>
          <NavLink to="/calculators">Calculators</NavLink>
          <NavLink to="/decisions">Decisions</NavLink>
          <NavLink to="/routines">Routines</NavLink>
          <NavLink to="/models">Models</NavLink>
          {pairing?.here && <NavLink to="/devices">Devices</NavLink>}
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
