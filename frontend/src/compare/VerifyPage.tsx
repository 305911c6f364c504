import Button from "@mui/material/Button";
import MenuItem from "@mui/material/MenuItem";
import TextField from "@mui/material/TextField";
import { useQuery } from "@tanstack/react-query";
import { Link, useSearchParams } from "react-router";
import type { Schemas } from "../api/client";
import { lasting } from "../api/problem";
import {
  calibrationQuery,
  comparisonQuery,
  type Grade,
  samplesQuery,
  stickTakesQuery,
} from "../api/queries";
import { moment, sourceName, stickName } from "../app/format";
import { useKeys } from "../app/keys";
import { Loading, Page, Trouble } from "../app/parts";
import { StartTake } from "../capture/StartTake";
import { useJobView } from "../job/JobMat";
import { Pin, pinLabel, pinProps } from "../plots/Pin";
import { type Role, StageMark } from "../plots/stage";
import { Cautions } from "./Cautions";
import { CompareTable } from "./CompareTable";
import { Deltas } from "./Deltas";
import { PairPlots } from "./PairPlots";
import "./compare.css";

const GRADES: [Grade, string][] = [
  ["fine", "Precise steering"],
  ["everyday", "Everyday use"],
  ["display", "Menus and displays"],
];

/** What became of a calibration between the two, unless it simply holds. */
function Calibrated({ jobId, after }: { jobId: number; after: number }) {
  const { data: view } = useQuery(calibrationQuery(jobId, "0"));
  if (!view?.outcome || view.outcome.became === "held" || view.after?.take_id !== after)
    return null;
  return (
    <p className="remark">
      {view.outcome.words} <Link to={`/jobs/${jobId}/calibration`}>What it would hold</Link>
    </p>
  );
}

/** Measure again, and say honestly whether it got better. */
export function Component() {
  const view = useJobView();
  const { job } = view;
  const [search, setSearch] = useSearchParams();
  const { data: takes } = useQuery(stickTakesQuery(job.controller.id, job.stick));
  const usual = view.pair;
  const before = Number(search.get("before") ?? usual?.before ?? 0);
  const after = Number(search.get("after") ?? usual?.after ?? 0);
  const grade = (GRADES.find(([g]) => g === search.get("grade"))?.[0] ?? "everyday") as Grade;
  const picked = search.has("before") || search.has("after");
  if ((view.measure_next && !picked && !job.closed_at) || !before || !after) {
    const nothingYet = !usual && !view.measure_next;
    return (
      <Page
        title={
          nothingYet
            ? "There are not yet two takes to compare."
            : `Measure the ${stickName(job.stick)} again, ${view.next_stage}.`
        }
      >
        <p className="lead">
          The same routine, by the same source. Then before and after are set on one axis.
        </p>
        {!job.closed_at && <StartTake view={view} />}
        {usual && (
          <p>
            <Link to={`/jobs/${job.id}/verify?before=${usual.before}&after=${usual.after}`}>
              Compare the takes there are
            </Link>
          </p>
        )}
      </Page>
    );
  }
  const usable = (takes ?? []).filter((t) => t.usable);
  const set = (key: string, value: string) => {
    const next = new URLSearchParams({ before: String(before), after: String(after), grade });
    next.set(key, value);
    setSearch(next, { replace: true });
  };
  const option = (t: Schemas["Take"]) => (
    <MenuItem key={t.id} value={t.id}>
      Take {t.id}, {t.stage}, {moment(t.started_at)}
    </MenuItem>
  );
  return (
    <section className="page compare">
      <Compared before={before} after={after} grade={grade} />
      <Calibrated jobId={job.id} after={after} />
      <div className="compare-choice">
        <TextField
          select
          size="small"
          label="Before"
          value={usable.some((t) => t.id === before) ? before : ""}
          onChange={(e) => set("before", e.target.value)}
        >
          {usable.map(option)}
        </TextField>
        <TextField
          select
          size="small"
          label="Now"
          value={usable.some((t) => t.id === after) ? after : ""}
          onChange={(e) => set("after", e.target.value)}
        >
          {usable.map(option)}
        </TextField>
        <TextField
          select
          size="small"
          label="Limits for"
          value={grade}
          onChange={(e) => set("grade", e.target.value)}
        >
          {GRADES.map(([g, label]) => (
            <MenuItem key={g} value={g}>
              {label}
            </MenuItem>
          ))}
        </TextField>
        <Button onClick={() => window.print()}>
          Print <kbd>P</kbd>
        </Button>
        <GoOn before={before} after={after} grade={grade} />
      </div>
    </section>
  );
}

/** To what the later take asks for; Hand over stays open. */
function GoOn({ before, after, grade }: { before: number; after: number; grade: Grade }) {
  const { job } = useJobView();
  const { data } = useQuery(comparisonQuery(before, after, grade));
  const next = job.closed_at || data?.next.station === "hand-over" ? undefined : data?.next;
  return (
    <>
      {next && (
        <Button component={Link} to={`/jobs/${job.id}/${next.place}`} variant="contained">
          {next.label}
        </Button>
      )}
      <Button
        component={Link}
        to={`/jobs/${job.id}/hand-over`}
        variant={next ? "outlined" : "contained"}
      >
        Hand over
      </Button>
    </>
  );
}

function Compared({ before, after, grade }: { before: number; after: number; grade: Grade }) {
  const { job } = useJobView();
  const { data: found, error } = lasting(useQuery(comparisonQuery(before, after, grade)));
  const { data: was } = useQuery(samplesQuery(before));
  const { data: now } = useQuery(samplesQuery(after));
  useKeys([{ key: "p", shown: "P", does: "print", run: () => window.print() }]);
  if (error) {
    return (
      <>
        <h1 className="sentence">These takes cannot be compared.</h1>
        <Trouble error={error} />
      </>
    );
  }
  if (!found) return <Loading what="the comparison" />;
  const role: Role = found.before.take.stage === "as received" ? "received" : "between";
  const { rows } = found.comparison;
  const pin = pinProps(found.after.pin);
  return (
    <>
      <header className="headline">
        <Pin {...pin} size={92} label={pinLabel(stickName(job.stick), pin)} />
        <div>
          <h1 className="sentence">{found.sentence}</h1>
          <p className="soft meta">
            {found.after.tag} {found.after.model} · {stickName(job.stick)} ·{" "}
            <StageMark stage={role} /> {found.before.take.stage}{" "}
            {moment(found.before.take.started_at)} against <StageMark stage="now" />{" "}
            {found.after.take.stage} {moment(found.after.take.started_at)} ·{" "}
            {sourceName(found.after.take.source_kind, found.after.take.source_name)}
          </p>
        </div>
      </header>
      <Cautions found={found} />
      {rows.length > 0 && (
        <>
          <Deltas found={found} before={role} />
          <PairPlots
            before={{ view: found.before, samples: was, role, label: "Before" }}
            after={{ view: found.after, samples: now, role: "now", label: "Now" }}
            limit={pin.limit}
          />
          <CompareTable rows={rows} />
        </>
      )}
    </>
  );
}
