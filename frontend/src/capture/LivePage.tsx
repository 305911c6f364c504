import Button from "@mui/material/Button";
import { useQuery } from "@tanstack/react-query";
import { useEffect, useState } from "react";
import { Link, useNavigate, useParams, useSearchParams } from "react-router";
import type { Schemas } from "../api/client";
import { lasting } from "../api/problem";
import { sourceChecksQuery, takeQuery, useRefresh } from "../api/queries";
import { ofTake } from "../api/touched";
import { capital, sourceName, stickName } from "../app/format";
import { useKeys } from "../app/keys";
import { Loading, NotShown, Page } from "../app/parts";
import { useJobView } from "../job/JobMat";
import { STEP_LABEL } from "../plots/steps";
import { LiveStick } from "./LiveStick";
import { LiveTrace } from "./LiveTrace";
import type { StepName } from "./live";
import { Count } from "./StepCount";
import { SPACE, SPACE_BUTTON } from "./space";
import { type LiveView, useLiveTake } from "./useLiveTake";
import "./capture.css";

type Take = Schemas["Take"];

/** A take while it runs; two at once where each hand has a stick. */
export function Component() {
  const takeId = Number(useParams().takeId);
  const [search] = useSearchParams();
  const alsoId = Number(search.get("also") ?? 0);
  const fresh = { staleTime: Number.POSITIVE_INFINITY };
  const { data: view, error: lost } = lasting(useQuery({ ...takeQuery(takeId), ...fresh }));
  const { data: also, error: alsoLost } = lasting(
    useQuery({ ...takeQuery(alsoId), ...fresh, enabled: alsoId > 0 }),
  );
  const error = lost ?? alsoLost;
  if (error) return <NotShown title="This take cannot be shown." error={error} />;
  if (!view || (alsoId > 0 && !also)) return <Loading what="the take" />;
  const stepNames = Object.keys(STEP_LABEL);
  const steps = search.getAll("step").filter((s): s is StepName => stepNames.includes(s));
  return (
    <OneOrTwo
      key={`${takeId} ${alsoId}`}
      take={view.take}
      also={also?.take ?? null}
      steps={steps}
      search={search}
    />
  );
}

interface LiveParams {
  take: Take;
  also: Take | null;
  steps: StepName[];
  search: URLSearchParams;
}

/** A take that had ended before this page opened is not run; one that ends here says how. */
function OneOrTwo(asked: LiveParams) {
  const { take, also, steps } = asked;
  const [endedBefore] = useState(take.state !== "recording" && steps.length === 0);
  if (endedBefore) return <EndedBefore take={take} />;
  return also ? <RunningTwo {...asked} also={also} /> : <Running {...asked} />;
}

function EndedBefore({ take }: { take: Take }) {
  return (
    <Page title="This take has ended.">
      <p className="lead">
        What it recorded is kept.{" "}
        <Link to={`/jobs/${take.job_id}/takes/${take.id}`}>Its readings</Link> show what can be used
        and what is missing.
      </p>
    </Page>
  );
}

/** Of a source that the page does not read. */
const NOT_READ_HERE: Schemas["SourceSetup"] = {
  path: "",
  axes: [],
  flipped: [],
  y_turned: false,
  fields: null,
  fuzz: null,
  flat: null,
  by_model: false,
};

function useRun(take: Take, steps: StepName[], search: URLSearchParams): LiveView {
  const { job } = useJobView();
  const name = sourceName(take.source_kind, take.source_name);
  const { data: view } = useQuery({ ...takeQuery(take.id), staleTime: Number.POSITIVE_INFINITY });
  const { data: checks } = useQuery(sourceChecksQuery(job.controller.model.id));
  const lastCheck = checks?.find(
    (c) => c.source_kind === take.source_kind && c.source_name === take.source_name,
  );
  return useLiveTake(
    take,
    {
      name: take.source_kind === "stand-in" ? `${name} ${job.controller.model.name}` : name,
      pad: Number(search.get("pad") ?? 0),
      hand: search.get("hand") ?? "own",
      setup: view?.setup ?? NOT_READ_HERE,
      known: lastCheck
        ? { words: lastCheck.check.short, hides: lastCheck.check.standing === "hides" }
        : null,
    },
    steps,
  );
}

/** Where a take that ran through leads: to the other stick, to both, or to its readings. */
function useAfterwards(take: Take, search: URLSearchParams, lives: LiveView[]): void {
  const navigate = useNavigate();
  const refresh = useRefresh();
  const then = search.get("then");
  const first = search.get("first");
  const also = search.get("also");
  const study = search.get("study");
  const over = lives.every((live) => live.ended);
  const complete = lives.every((live) => live.ended?.state === "complete");
  // biome-ignore lint/correctness/useExhaustiveDependencies: once, when all have ended
  useEffect(() => {
    if (!over) return;
    refresh(ofTake(take.job_id)).then(() => {
      if (!complete) return;
      const go = (to: string) => navigate(to, { replace: true });
      if (then) {
        const next = new URLSearchParams(search);
        next.delete("then");
        next.set("first", String(take.id));
        go(`/jobs/${take.job_id}/takes/${then}/live?${next}`);
      } else if (search.get("back") === "decide") go(`/jobs/${take.job_id}/decide`);
      else if (study) go(`/bench-checks/${study}`);
      else if (first) go(`/jobs/${take.job_id}/sticks?before=${first}&after=${take.id}`);
      else if (also) go(`/jobs/${take.job_id}/sticks?before=${also}&after=${take.id}`);
      else go(`/jobs/${take.job_id}/takes/${take.id}`);
    });
  }, [over]);
}

function Steps({ take, steps, live }: { take: Take; steps: StepName[]; live: LiveView }) {
  const { progress } = live;
  return (
    <ol className="steps" aria-label={`Steps of the routine, ${stickName(take.stick)}`}>
      {steps.map((step) => (
        <li
          key={step}
          className={progress?.done.includes(step) ? "done" : step === progress?.step ? "now" : ""}
          aria-current={step === progress?.step ? "step" : undefined}
        >
          {STEP_LABEL[step]}
        </li>
      ))}
      <li className="steps-end soft">
        {stickName(take.stick)}, {take.stage}
      </li>
    </ol>
  );
}

function Words({ live, heading: Heading = "h1" }: { live: LiveView; heading?: "h1" | "h3" }) {
  const { progress } = live;
  return (
    <div className="live-words">
      <Heading className="says" aria-live="assertive">
        {progress?.says ?? "Waiting for the first samples."}
      </Heading>
      {progress && <Count progress={progress} />}
      <p className="coach" role="status">
        {progress?.note}
      </p>
      {live.trouble && (
        <p className="trouble" role="alert">
          {live.trouble}
        </p>
      )}
    </div>
  );
}

function Interrupted({ take, because }: { take: Take; because: string | null }) {
  return (
    <Page title="The take was interrupted.">
      <p className="lead">
        {because ? `${capital(because).replace(/\.$/, "")}. ` : ""}
        Everything recorded so far is kept.
      </p>
      <p className="actions">
        <Button component={Link} to={`/jobs/${take.job_id}/takes/${take.id}`} variant="contained">
          See what can be used
        </Button>
        <Button component={Link} to={`/jobs/${take.job_id}/prove`}>
          Take again
        </Button>
      </p>
    </Page>
  );
}

function Running({ take, steps, search }: LiveParams) {
  const navigate = useNavigate();
  const live = useRun(take, steps, search);
  const { progress, ended } = live;
  const asked = steps.length ? steps : take.routine.steps;
  const does = progress?.space ?? "none";
  const done = asked.flatMap((step, i) => (progress?.done.includes(step) ? [i] : []));
  const soak = asked.length === 1 && asked[0] === "still";
  useAfterwards(take, search, [live]);
  useKeys(
    [
      {
        key: "space",
        shown: "Space",
        does: SPACE[does],
        run: live.accept,
        when: !ended && does !== "none",
      },
      { key: "r", shown: "R", does: "redo the step", run: () => live.redo(), when: !ended },
      {
        key: done.map((i) => String(i + 1)).join(","),
        shown: done.map((i) => String(i + 1)).join(" "),
        does: "back to that step",
        run: (pressed) => live.redo(asked[Number(pressed) - 1]),
        when: !ended && done.length > 0,
      },
      {
        key: "space",
        shown: "Space",
        does: "take again",
        run: () => navigate(`/jobs/${take.job_id}/prove`),
        when: ended?.state === "interrupted",
      },
      { key: "esc", shown: "Esc", does: "stop", run: live.stop, when: !ended },
    ],
    !ended,
  );
  if (ended?.state === "before") return <EndedBefore take={take} />;
  if (ended?.state === "interrupted") return <Interrupted take={take} because={ended.because} />;
  return (
    <section className="page live">
      <Steps take={take} steps={asked} live={live} />
      <div className="live-main">
        <Words live={live} />
        <LiveStick
          recent={live.recent}
          gate={take.gate}
          single={take.ranges.length === 1}
          steer={search.get("hand") === "visitor" ? live.steer : undefined}
        />
      </div>
      <LiveTrace recent={live.recent} single={take.ranges.length === 1} />
      <p className="actions">
        {does !== "none" && (
          <Button variant="contained" onClick={live.accept}>
            {SPACE_BUTTON[does]} <kbd>Space</kbd>
          </Button>
        )}
        <Button onClick={() => live.redo()}>
          Redo the step <kbd>R</kbd>
        </Button>
        <Button onClick={live.stop}>
          Stop <kbd>Esc</kbd>
        </Button>
        {soak && (
          <a href={`/jobs/${take.job_id}/takes/${take.id}`} target="_blank" rel="noreferrer">
            Browse what is recorded so far, in another window
          </a>
        )}
      </p>
    </section>
  );
}

/** Both sticks at once. Space does whatever one of them offers. */
function RunningTwo({ take, also, steps, search }: LiveParams & { also: Take }) {
  const { job } = useJobView();
  const sides = [
    { take, live: useRun(take, steps, search) },
    { take: also, live: useRun(also, steps, search) },
  ];
  const lives = sides.map((s) => s.live);
  useAfterwards(take, search, lives);
  const offers = lives.find((l) => !l.ended && l.progress && l.progress.space !== "none");
  const over = lives.every((l) => l.ended);
  const stop = () => {
    for (const live of lives) live.stop();
  };
  useKeys(
    [
      {
        key: "space",
        shown: "Space",
        does: "accept",
        run: () => offers?.accept(),
        when: offers !== undefined,
      },
      { key: "esc", shown: "Esc", does: "stop both", run: stop, when: !over },
    ],
    !over,
  );
  const before = sides.find((s) => s.live.ended?.state === "before");
  if (over && before) return <EndedBefore take={before.take} />;
  const lost = sides.find((s) => s.live.ended?.state === "interrupted");
  if (over && lost)
    return <Interrupted take={lost.take} because={lost.live.ended?.because ?? null} />;
  return (
    <section className="page live two">
      <h1 className="hidden">
        Both sticks of {job.controller.tag}, {take.stage}
      </h1>
      {sides.map(({ take: side, live }) => (
        <section key={side.id} aria-label={stickName(side.stick)}>
          <h2>{capital(stickName(side.stick))}</h2>
          <Steps take={side} steps={side.routine.steps} live={live} />
          <Words live={live} heading="h3" />
          <LiveStick
            recent={live.recent}
            gate={side.gate}
            single={side.ranges.length === 1}
            steer={undefined}
          />
        </section>
      ))}
      <p className="actions">
        {offers && (
          <Button variant="contained" onClick={offers.accept}>
            Accept <kbd>Space</kbd>
          </Button>
        )}
        <Button onClick={stop}>
          Stop both <kbd>Esc</kbd>
        </Button>
      </p>
    </section>
  );
}
