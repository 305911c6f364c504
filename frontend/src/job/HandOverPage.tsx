import Button from "@mui/material/Button";
import TextField from "@mui/material/TextField";
import { useMutation, useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { Link } from "react-router";
import { api, data, type Schemas } from "../api/client";
import { catalogueQuery, comparisonQuery, takeQuery, useChange } from "../api/queries";
import { ofJobAndShelf } from "../api/touched";
import { Choose } from "../app/Choose";
import { moment, stickName } from "../app/format";
import { Loading, Page, Trouble, Words } from "../app/parts";
import { useJobView } from "./JobMat";
import { Checks } from "./TakeInPage";
import { TakeList } from "./TakeList";

type Ending = Schemas["Closing"]["ended"];

const lower = (words = "") => words.charAt(0).toLowerCase() + words.slice(1);

/** A controller beyond repair is kept for its parts. */
function Donor({ view }: { view: Schemas["JobView"] }) {
  const path = { params: { path: { job_id: view.job.id } } };
  const keep = useChange(
    () => data(api.POST("/api/jobs/{job_id}/donor", { ...path, body: { note: "" } })),
    ofJobAndShelf(view.job.id),
  );
  const drop = useChange(
    () => data(api.DELETE("/api/jobs/{job_id}/donor", path)),
    ofJobAndShelf(view.job.id),
  );
  return (
    <p>
      {view.donor ? (
        <>
          It is kept as a donor.{" "}
          <button type="button" className="plain link" onClick={() => drop.mutate(undefined)}>
            Not any longer
          </button>
        </>
      ) : (
        <button type="button" className="plain link" onClick={() => keep.mutate(undefined)}>
          Beyond repair: keep it as a donor
        </button>
      )}
      <Trouble error={keep.error ?? drop.error} />
    </p>
  );
}

/** Close the job, or open it again. */
export function HandOverPage() {
  const view = useJobView();
  const { job } = view;
  const path = { params: { path: { job_id: job.id } } };
  const [outcome, setOutcome] = useState("");
  const refer = job.controller.refer;
  const [chosen, setChosen] = useState<Ending | null>(null);
  const { data: catalogue } = useQuery(catalogueQuery);
  const endingWords = catalogue?.take_in.ended;
  const close = useChange(
    (body: Schemas["Closing"]) => data(api.POST("/api/jobs/{job_id}/close", { ...path, body })),
    ofJobAndShelf(job.id),
  );
  const reopen = useChange(
    () => data(api.POST("/api/jobs/{job_id}/reopen", path)),
    ofJobAndShelf(job.id),
  );
  const draft = useMutation({
    mutationFn: () => data(api.GET("/api/jobs/{job_id}/hand-over", path)),
    onSuccess: ({ text }) => setOutcome((typed) => (typed ? `${typed}\n${text}` : text)),
  });
  const { pair } = view;
  const {
    data: compared,
    isLoading: comparing,
    error: incomparable,
  } = useQuery({
    ...comparisonQuery(pair?.before ?? 0, pair?.after ?? 0, "everyday"),
    enabled: pair !== null,
  });
  const only = pair ? null : view.latest;
  const {
    data: single,
    isLoading: reading,
    error: unread,
  } = useQuery({ ...takeQuery(only ?? 0), enabled: only !== null });
  if (comparing || reading) return <Loading what="the readings" />;
  const failed = incomparable ?? unread;
  const meaning = compared?.after.meaning ?? single?.meaning;
  const asks = meaning?.try_first !== "none";
  const ending = chosen ?? view.suggested;
  const unasked = !refer && ending === "signed-off" && job.moves !== "no";
  const sentence =
    compared?.sentence ??
    single?.meaning?.sentence ??
    (failed
      ? "The readings cannot be shown."
      : `The ${stickName(job.stick)} has not been measured.`);
  return (
    <Page title={sentence}>
      {!meaning && <Trouble error={failed} />}
      {meaning && !refer && (
        <p className="lead">
          {asks && <strong>Left to do. </strong>}
          {meaning.advice}
        </p>
      )}
      {view.others.map((other) => (
        <p key={other.take_id} className="problems">
          <Link to={`/jobs/${job.id}/takes/${other.take_id}`}>{other.words}</Link>
        </p>
      ))}
      {pair && (
        <p>
          <Link to={`/jobs/${job.id}/verify`}>Before and after, to look at or to print</Link>
        </p>
      )}
      {job.closed_at ? (
        <section className="block">
          <h2>
            Closed {moment(job.closed_at)}: {lower(endingWords?.[job.ended ?? "unsaid"])}
          </h2>
          <p>
            <Words text={job.outcome || "No words were left."} />
          </p>
          <Button onClick={() => reopen.mutate(undefined)} disabled={reopen.isPending}>
            Open it again
          </Button>
          <Trouble error={reopen.error} />
        </section>
      ) : (
        <form
          className="form"
          onSubmit={(e) => {
            e.preventDefault();
            if (ending) close.mutate({ ended: ending, outcome });
          }}
        >
          <Choose
            label="How it leaves"
            options={
              refer
                ? [["referred", endingWords?.referred ?? "Referred"]]
                : [
                    ["signed-off", endingWords?.["signed-off"] ?? "Signed off"],
                    ["as-it-was", endingWords?.["as-it-was"] ?? "As it is"],
                    ["referred", endingWords?.referred ?? "Referred"],
                  ]
            }
            value={ending}
            onChange={setChosen}
          />
          {unasked && (
            <p className="refer-note">
              Answer first, under <Link to={`/jobs/${job.id}/take-in`}>Take in</Link>:{" "}
              {catalogue?.take_in.moves}
            </p>
          )}
          <TextField
            label="Outcome: what was wrong, what was done, what to expect"
            multiline
            minRows={2}
            maxRows={14}
            value={outcome}
            onChange={(e) => setOutcome(e.target.value)}
          />
          <p>
            <button
              type="button"
              className="plain link"
              disabled={draft.isPending}
              onClick={() => draft.mutate()}
            >
              Write it from the record
            </button>
          </p>
          <Trouble error={draft.error ?? close.error} />
          <p className="actions">
            <Button
              type="submit"
              variant="contained"
              disabled={close.isPending || unasked || ending === null}
            >
              Close the job
            </Button>
            {!refer && (
              <Button component={Link} to={`/jobs/${job.id}/decide`}>
                Go round again
              </Button>
            )}
            {ending === null && <span className="soft">Say first how it leaves.</span>}
          </p>
        </form>
      )}
      {!refer && <Donor view={view} />}
      <Checks view={view} final />
      <TakeList view={view} />
    </Page>
  );
}
