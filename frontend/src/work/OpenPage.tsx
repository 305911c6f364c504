import Button from "@mui/material/Button";
import Checkbox from "@mui/material/Checkbox";
import FormControlLabel from "@mui/material/FormControlLabel";
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { Link } from "react-router";
import { api, data, type Schemas } from "../api/client";
import { lasting } from "../api/problem";
import { openingQuery, useChange } from "../api/queries";
import { ofJob, ofModels } from "../api/touched";
import { Loading, NotShown, Page, Trouble } from "../app/parts";
import { useJobView } from "../job/JobMat";
import { Photos } from "../takein/Photos";
import { LearnStep } from "./LearnStep";
import { Plan } from "./Plan";
import { StepWalk } from "./StepWalk";
import { WorkNav } from "./WorkNav";
import "./work.css";

type OpeningView = Schemas["OpeningView"];

/** The shell is opened by its model's sheet, a key a step. */
export function Component() {
  const jobView = useJobView();
  const { job } = jobView;
  const { data: view, error } = lasting(useQuery(openingQuery(job.id)));
  if (error) return <NotShown title="This cannot be shown." error={error} />;
  if (!view) return <Loading what="the sheet" />;
  const model = job.controller.model;
  const title = view.opening
    ? view.opens.next
      ? `Opening the ${model.name}`
      : `The ${model.name} is open.`
    : `Open the ${model.name}`;
  return (
    <Page title={title}>
      <WorkNav jobId={job.id} />
      {job.closed_at ? (
        <p className="lead">The job is closed.</p>
      ) : view.opening ? (
        <>
          <Opening jobId={job.id} view={view} />
          <Photos view={jobView} />
        </>
      ) : (
        <Begin jobId={job.id} modelId={model.id} view={view} />
      )}
    </Page>
  );
}

function Rules({ view }: { view: OpeningView }) {
  const sheet = view.opening?.sheet ?? view.kept.sheet;
  return (
    <>
      <p className="lead">{view.battery}</p>
      {sheet.first && <p>{sheet.first}</p>}
    </>
  );
}

function Begin({ jobId, modelId, view }: { jobId: number; modelId: string; view: OpeningView }) {
  const [read, setRead] = useState(false);
  const begin = useChange(
    () =>
      data(
        api.POST("/api/jobs/{job_id}/opening", {
          params: { path: { job_id: jobId } },
          body: { cautions: view.cautions.map((c) => c.code) },
        }),
      ),
    ofJob(jobId),
  );
  const { sheet } = view.kept;
  return (
    <>
      <Rules view={view} />
      {view.before > 0 && (
        <p className="near">
          It was opened and shut {view.before === 1 ? "once" : `${view.before} times`} in this job
          already: that goes on record.
        </p>
      )}
      {sheet.steps.length === 0 ? (
        <p>
          There is no sheet of this model yet. Put each step down as you go, and it becomes one; or{" "}
          <Link to={`/models/${modelId}/sheet`}>draw it first</Link>.
        </p>
      ) : (
        <div className="walk">
          <ol className="walk-steps">
            {sheet.steps.map((s) => (
              <li key={s.id}>
                <span className="station-mark" aria-hidden="true" />
                <span>{s.words}</span>
              </li>
            ))}
          </ol>
          <Plan steps={sheet.steps} fasteners={view.opens.fasteners} at={null} />
        </div>
      )}
      <section className="cautions" aria-label="Cautions">
        <div className="before">
          <h2>Before you begin</h2>
          <p className="soft">The usual cautions. Local rules and licensed people come first.</p>
        </div>
        <ul>
          {view.cautions.map((c) => (
            <li key={c.code}>{c.text}</li>
          ))}
        </ul>
        <FormControlLabel
          control={<Checkbox checked={read} onChange={(_, on) => setRead(on)} />}
          label="Read and kept to"
        />
      </section>
      {view.why_not && <p className="over">{view.why_not}</p>}
      <Trouble error={begin.error} />
      <p className="actions">
        <Button
          variant="contained"
          disabled={!read || begin.isPending || view.why_not !== ""}
          onClick={() => begin.mutate(undefined)}
        >
          Open it
        </Button>
        <Link to={`/models/${modelId}/sheet`}>The model's sheet</Link>
      </p>
    </>
  );
}

function Opening({ jobId, view }: { jobId: number; view: OpeningView }) {
  const keep = useChange(
    () =>
      data(api.POST("/api/jobs/{job_id}/opening/keep", { params: { path: { job_id: jobId } } })),
    [...ofJob(jobId), ...ofModels],
  );
  return (
    <>
      <Rules view={view} />
      {!view.opens.next && (
        <p className="actions">
          <Button component={Link} to={`/jobs/${jobId}/work`} variant="contained">
            Put the work on record
          </Button>
        </p>
      )}
      <StepWalk jobId={jobId} view={view} way="out" />
      <LearnStep jobId={jobId} />
      {view.learnt && (
        <p className="actions">
          <Button onClick={() => keep.mutate(undefined)} disabled={keep.isPending}>
            Keep what was learnt as the model's sheet
          </Button>
        </p>
      )}
      <Trouble error={keep.error} />
    </>
  );
}
