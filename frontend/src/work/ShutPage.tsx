import Button from "@mui/material/Button";
import TextField from "@mui/material/TextField";
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { Link } from "react-router";
import { api, data, type Schemas } from "../api/client";
import { lasting } from "../api/problem";
import { openingQuery, useChange } from "../api/queries";
import { ofJob } from "../api/touched";
import { useKeys } from "../app/keys";
import { Loading, NotShown, Page, Trouble } from "../app/parts";
import { useJobView } from "../job/JobMat";
import { Photos } from "../takein/Photos";
import { JobTimers } from "./JobTimers";
import { Passes } from "./Passes";
import { StepWalk, useTicks } from "./StepWalk";
import { WorkNav } from "./WorkNav";
import "./work.css";

type OpeningView = Schemas["OpeningView"];

/** Checked with the shell open, then shut by the same sheet backward, with nothing left over. */
export function Component() {
  const view = useJobView();
  const { job } = view;
  const { data: opening, error } = lasting(useQuery(openingQuery(job.id)));
  if (error) return <NotShown title="This cannot be shown." error={error} />;
  if (!opening) return <Loading what="the sheet" />;
  if (!opening.opening) {
    return (
      <Page title="The shell is shut.">
        <WorkNav jobId={job.id} />
        <p className="lead">
          {opening.before > 0
            ? "What was done is on record. Measure again and compare."
            : "It was not opened in this job."}
        </p>
        <p className="actions">
          <Button component={Link} to={`/jobs/${job.id}/verify`} variant="contained">
            Measure again and compare
          </Button>
          <Link to={`/jobs/${job.id}/check?kind=final`}>Press every button once more</Link>
        </p>
        <PlayTest jobId={job.id} view={opening} />
      </Page>
    );
  }
  return (
    <Page title={opening.check.close === true ? "Close it." : "Before it is closed"}>
      <WorkNav jobId={job.id} />
      <Check view={opening} jobId={job.id} stick={job.stick} />
      <Passes jobId={job.id} asked={opening.check.close === false} />
      {opening.shuts.way === "back" ? (
        <StepWalk jobId={job.id} view={opening} way="back" />
      ) : (
        <Final jobId={job.id} view={opening} />
      )}
      <Photos view={view} />
      <Shut jobId={job.id} view={opening} />
      <JobTimers view={view} />
    </Page>
  );
}

function Check({ view, jobId, stick }: { view: OpeningView; jobId: number; stick: string }) {
  const { check } = view;
  const kind = check.close === null ? "soft" : check.close ? "within" : "over";
  const query = new URLSearchParams({ shell: "open", stick });
  if (check.quick) query.set("routine", "quick");
  return (
    <section className="block" aria-label="Open-shell check">
      <h2>With the shell open, grips off, one screw in</h2>
      <p className={`lead ${kind}`} role="status">
        {check.says}
      </p>
      {check.close === false && (
        <p className="actions">
          <Button
            component={Link}
            to={`/jobs/${jobId}/prove?${query}`}
            variant={check.measure ? "contained" : "outlined"}
          >
            Measure it open{check.quick && ", quickly"}
          </Button>
          <Button
            component={Link}
            to={`/jobs/${jobId}/work`}
            variant={check.measure ? "outlined" : "contained"}
          >
            Try something else
          </Button>
        </p>
      )}
    </section>
  );
}

function Final({ jobId, view }: { jobId: number; view: OpeningView }) {
  const { once, undo, error } = useTicks(jobId);
  const next = view.shuts.next;
  const run = (code: string | null) => code && once("final", code, "");
  useKeys([
    {
      key: "space",
      shown: "Space",
      does: "looked at, next",
      run: () => run(next),
      when: next !== null,
    },
    {
      key: "backspace",
      shown: "⌫",
      does: "take the last back",
      run: undo,
      when: view.ticks.length > 0,
    },
  ]);
  return (
    <section className="block" aria-label="Looked at before it shuts">
      <h2>Looked at before it shuts</h2>
      <ul className="rows">
        {view.final.map((f) => (
          <li key={f.code} className={f.code === next ? "next" : ""}>
            <span className={`station-mark ${f.done ? "done" : ""}`} aria-hidden="true" />
            <span>
              {f.words}
              <span className="hidden">{f.done ? ", done" : ""}</span>
            </span>
            {!f.done && (
              <button type="button" className="plain link" onClick={() => run(f.code)}>
                Looked at
              </button>
            )}
          </li>
        ))}
      </ul>
      <Trouble error={error} />
    </section>
  );
}

function Shut({ jobId, view }: { jobId: number; view: OpeningView }) {
  const [lying, setLying] = useState<Record<string, string>>({});
  const [because, setBecause] = useState("");
  const counted = Object.fromEntries(
    Object.entries(lying).map(([letter, n]) => [letter, Number(n) || 0]),
  );
  const over = Object.values(counted).some((n) => n > 0);
  const shut = useChange(
    () =>
      data(
        api.POST("/api/jobs/{job_id}/opening/shut", {
          params: { path: { job_id: jobId } },
          body: { lying: counted, because },
        }),
      ),
    ofJob(jobId),
  );
  const against = view.against.length > 0 || over;
  return (
    <section className="block" aria-label="Shut it">
      <h2>Shut it</h2>
      {view.shuts.fasteners.length > 0 && (
        <fieldset>
          <legend className="soft">What still lies on the mat</legend>
          <div className="lying">
            {view.shuts.fasteners.map((f) => (
              <TextField
                key={f.letter}
                size="small"
                label={`${f.letter}, ${f.length_mm} mm`}
                value={lying[f.letter] ?? ""}
                placeholder="0"
                inputMode="numeric"
                slotProps={{ inputLabel: { shrink: true } }}
                onChange={(e) => setLying({ ...lying, [f.letter]: e.target.value })}
              />
            ))}
          </div>
        </fieldset>
      )}
      {view.against.length > 0 && (
        <ul className="objections">
          {view.against.map((words) => (
            <li key={words} className="near">
              {words}
            </li>
          ))}
        </ul>
      )}
      {against && (
        <TextField
          label="Why it is shut all the same"
          value={because}
          onChange={(e) => setBecause(e.target.value)}
          fullWidth
        />
      )}
      <Trouble error={shut.error} />
      <p className="actions">
        <Button
          variant="contained"
          disabled={shut.isPending || (against && !because.trim())}
          onClick={() => shut.mutate(undefined)}
        >
          Call it shut
        </Button>
      </p>
    </section>
  );
}

/** A second person plays it, and says how. */
function PlayTest({ jobId, view }: { jobId: number; view: OpeningView }) {
  const [words, setWords] = useState("");
  const play = useChange(
    () =>
      data(
        api.POST("/api/jobs/{job_id}/play-test", {
          params: { path: { job_id: jobId } },
          body: { words },
        }),
      ),
    ofJob(jobId),
  );
  return (
    <section className="block" aria-label="Play test">
      <h2>A second person plays it</h2>
      {view.played.map((p) => (
        <p key={p.id}>
          <strong>{p.role}:</strong> {p.text}
        </p>
      ))}
      <form
        className="inline-form"
        onSubmit={(e) => {
          e.preventDefault();
          play.mutate(undefined, { onSuccess: () => setWords("") });
        }}
      >
        <TextField
          size="small"
          label="Their word"
          value={words}
          onChange={(e) => setWords(e.target.value)}
        />
        <Button type="submit" size="small" disabled={!words.trim() || play.isPending}>
          Record it
        </Button>
      </form>
      <Trouble error={play.error} />
    </section>
  );
}
