import Button from "@mui/material/Button";
import { useQuery } from "@tanstack/react-query";
import { useEffect, useState } from "react";
import { Link, useNavigate, useParams, useSearchParams } from "react-router";
import type { Schemas } from "../api/client";
import { takeQuery, useRefresh } from "../api/queries";
import { capital, sourceName, stickName } from "../app/format";
import { useKeys } from "../app/keys";
import { Loading, Page, Trouble } from "../app/parts";
import { useJobView } from "../job/JobMat";
import { LiveStick } from "./LiveStick";
import { LiveTrace } from "./LiveTrace";
import type { StepName } from "./live";
import { Count } from "./StepCount";
import { useLiveTake } from "./useLiveTake";

const LABEL: Record<StepName, string> = { still: "Still", "let-go": "Let-go", rim: "Rim" };
const ALL: StepName[] = ["still", "let-go", "rim"];
const SPACE = { start: "start", accept: "accept and go on", redo: "do it again" } as const;
const BUTTON = { start: "Start", accept: "Accept", redo: "Do it again" } as const;

/** A take while it runs. */
export function Component() {
  const takeId = Number(useParams().takeId);
  const [search] = useSearchParams();
  const { data: view, error } = useQuery({
    ...takeQuery(takeId),
    staleTime: Number.POSITIVE_INFINITY,
  });
  if (error) {
    return (
      <Page title="This take cannot be shown.">
        <Trouble error={error} />
      </Page>
    );
  }
  if (!view) return <Loading what="the take" />;
  const steps = search.getAll("step").filter((s): s is StepName => ALL.includes(s as StepName));
  return <Take key={takeId} take={view.take} steps={steps} search={search} />;
}

interface Asked {
  take: Schemas["Take"];
  steps: StepName[];
  search: URLSearchParams;
}

/** A take that had ended before this page opened is not run; one that ends here says how. */
function Take(asked: Asked) {
  const { take, steps } = asked;
  const [endedBefore] = useState(take.state !== "recording" && steps.length === 0);
  if (endedBefore) {
    return (
      <Page title="This take has ended.">
        <p className="lead">
          What it recorded is kept.{" "}
          <Link to={`/jobs/${take.job_id}/takes/${take.id}`}>Its readings</Link> show what can be
          used and what is missing.
        </p>
      </Page>
    );
  }
  return <Running {...asked} />;
}

function Running({ take, steps, search }: Asked) {
  const { job } = useJobView();
  const navigate = useNavigate();
  const refresh = useRefresh();
  const name = sourceName(take.source_kind, take.source_name);
  const live = useLiveTake(
    take.id,
    {
      kind: take.source_kind,
      name: take.source_kind === "stand-in" ? `${name} ${job.controller.model.name}` : name,
      pad: Number(search.get("pad") ?? 0),
      axis: Number(search.get("axis") ?? 0),
      hand: search.get("hand") ?? "own",
    },
    steps,
  );
  const { progress, ended } = live;
  const asked = steps.length ? steps : ALL;
  const does = progress?.space ?? "none";

  // biome-ignore lint/correctness/useExhaustiveDependencies: once, when the take ends
  useEffect(() => {
    if (ended) {
      refresh().then(() => {
        if (ended.state === "complete")
          navigate(`/jobs/${job.id}/takes/${take.id}`, { replace: true });
      });
    }
  }, [ended]);

  useKeys(
    [
      {
        key: "space",
        shown: "Space",
        does: does === "none" ? "" : SPACE[does],
        run: live.accept,
        when: !ended && does !== "none",
      },
      { key: "r", shown: "R", does: "redo the step", run: () => live.redo(), when: !ended },
      ...asked.map((step, i) => ({
        key: String(i + 1),
        shown: String(i + 1),
        does: `back to ${LABEL[step]}`,
        run: () => live.redo(step),
        when: !ended && progress?.done.includes(step) === true,
      })),
      {
        key: "space",
        shown: "Space",
        does: "take again",
        run: () => navigate(`/jobs/${job.id}/prove`),
        when: ended?.state === "interrupted",
      },
      { key: "esc", shown: "Esc", does: "stop", run: live.stop, when: !ended },
    ],
    !ended,
  );

  if (ended?.state === "interrupted") {
    return (
      <Page title="The take was interrupted.">
        <p className="lead">
          {ended.because ? `${capital(ended.because).replace(/\.$/, "")}. ` : ""}
          Everything recorded so far is kept.
        </p>
        <p className="actions">
          <Button component={Link} to={`/jobs/${job.id}/takes/${take.id}`} variant="contained">
            See what can be used
          </Button>
          <Button component={Link} to={`/jobs/${job.id}/prove`}>
            Take again
          </Button>
        </p>
      </Page>
    );
  }
  const now = progress?.step;
  return (
    <section className="page live">
      <ol className="steps" aria-label="Steps of the routine">
        {asked.map((step) => (
          <li
            key={step}
            className={progress?.done.includes(step) ? "done" : step === now ? "now" : ""}
            aria-current={step === now ? "step" : undefined}
          >
            {LABEL[step]}
          </li>
        ))}
        <li className="steps-end soft">
          {stickName(take.stick)}, {take.stage}
        </li>
      </ol>
      <div className="live-main">
        <div className="live-words">
          <h1 className="says" aria-live="assertive">
            {progress?.says ?? "Waiting for the first samples."}
          </h1>
          {progress && now && <Count progress={progress} />}
          {live.trouble && (
            <p className="trouble" role="alert">
              {live.trouble}
            </p>
          )}
        </div>
        <LiveStick
          recent={live.recent}
          steer={search.get("hand") === "visitor" ? live.steer : undefined}
        />
      </div>
      <LiveTrace recent={live.recent} />
      <p className="actions">
        {does !== "none" && (
          <Button variant="contained" onClick={live.accept}>
            {BUTTON[does]} <kbd>Space</kbd>
          </Button>
        )}
        <Button onClick={() => live.redo()}>
          Redo the step <kbd>R</kbd>
        </Button>
        <Button onClick={live.stop}>
          Stop <kbd>Esc</kbd>
        </Button>
      </p>
    </section>
  );
}
