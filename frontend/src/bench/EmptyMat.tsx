import Button from "@mui/material/Button";
import { useQuery } from "@tanstack/react-query";
import { Link } from "react-router";
import {
  catalogueQuery,
  countsQuery,
  openStations,
  rechecksQuery,
  reopenedQuery,
  trayQuery,
} from "../api/queries";
import { day } from "../app/format";
import { Loading, NotShown, Page } from "../app/parts";
import "./bench.css";

/** Stopgaps wear off: which are to be looked at again, and when. */
function Rechecks() {
  const { data: rechecks } = useQuery(rechecksQuery);
  if (!rechecks || rechecks.length === 0) return null;
  return (
    <section className="block" aria-label="To be looked at again">
      <h2>To be looked at again</h2>
      <ul className="rows">
        {rechecks.map(({ recheck: r, words, due }) => (
          <li key={r.work_id}>
            <span className={`figures ${due ? "over" : "soft"}`}>{day(r.recheck_on)}</span>
            <Link to={`/controllers/${r.controller_id}`}>{r.tag}</Link>
            <span>{words}</span>
            {due && <span className="over">due</span>}
          </li>
        ))}
      </ul>
    </section>
  );
}

/** How many shells had to be opened again: with the open-shell check, and without it. */
function Reopened() {
  const { data: share } = useQuery(reopenedQuery);
  if (!share || share.with_check.shut + share.without.shut === 0) return null;
  const of = ({ again, shut }: { again: number; shut: number }) => `${again} of ${shut}`;
  return (
    <p>
      Opened again after closing: <strong className="figures">{of(share.with_check)}</strong> with
      the open-shell check, <strong className="figures">{of(share.without)}</strong> without it.
    </p>
  );
}

/** The mat with no job on it: where to begin. */
export function EmptyMat() {
  const { data: strips, error: empty } = useQuery(trayQuery);
  const { data: counts, error: uncounted } = useQuery(countsQuery);
  const { data: catalogue } = useQuery(catalogueQuery);
  if (!strips || !counts || !catalogue) {
    const error = empty ?? uncounted;
    if (!error) return <Loading what="the bench" />;
    return <NotShown title="The bench cannot be shown." error={error} />;
  }
  const open = strips.filter((s) => s.station !== "closed");
  const waiting = openStations(catalogue).reduce(
    (n, s) => n + (counts.stations[s.station] ?? 0),
    0,
  );
  const next = open.find((s) => s.station !== "prove") ?? open[0];
  return (
    <Page title={open.length ? "The mat is clear." : "The bench is empty."}>
      <p className="lead">
        {open.length
          ? `${waiting} ${waiting === 1 ? "controller waits" : "controllers wait"} in the tray. Choose one, or take another in.`
          : "Take a controller in: its tag, its model, what the owner says. Then measure it before anything is touched."}
      </p>
      <p className="actions">
        <Button component={Link} to="/new" variant="contained">
          New job
        </Button>
        {next && (
          <Button component={Link} to={`/jobs/${next.job_id}/${next.place}`}>
            Go on with {next.tag}
          </Button>
        )}
      </p>
      <ol className="order">
        <li>
          <strong>Take in.</strong> Scan or type the tag. A known controller comes up with its whole
          history; a new one needs its model, no more.
        </li>
        <li>
          <strong>Prove.</strong> Hands off, push and let go, round the edge. One minute; it runs
          itself, and Space is the only key.
        </li>
        <li>
          <strong>Decide and work.</strong> The sentence says what it is and what to try first.
          Recalibrating is free, so it comes before the screwdriver.
        </li>
        <li>
          <strong>Verify.</strong> The same again. Better, worse, or no change that this bench can
          see.
        </li>
      </ol>
      <Rechecks />
      <Reopened />
      <p className="soft">
        Without hardware: every controller has a stand-in that behaves like a real one, fault and
        all.
      </p>
    </Page>
  );
}
