import Button from "@mui/material/Button";
import TextField from "@mui/material/TextField";
import { useQuery } from "@tanstack/react-query";
import { useEffect, useState } from "react";
import { useForm } from "react-hook-form";
import { api, data, type Schemas } from "../api/client";
import { catalogueQuery, useChange } from "../api/queries";
import { ofJob } from "../api/touched";
import { numberOf } from "../app/format";
import { Trouble } from "../app/parts";
import { optionsOf, SelectField } from "../app/Select";
import { clock } from "./clock";
import "./work.css";

type Timer = Schemas["Timer"];
type Kind = Timer["kind"];

/** What of this job dries, cools or cures, and the way to begin another. */
export function JobTimers({ view }: { view: Schemas["JobView"] }) {
  const [now, setNow] = useState(Date.now());
  const running = view.timers.filter((t) => !t.stopped_at && Date.parse(t.ends_at) > now);
  const some = running.length > 0;
  useEffect(() => {
    if (!some) return;
    const every = setInterval(() => setNow(Date.now()), 1000);
    return () => clearInterval(every);
  }, [some]);
  return (
    <section className="block" aria-label="Timers">
      <h2>To be waited for</h2>
      {some && (
        <ul className="rows">
          {running.map((t) => (
            <Running key={t.id} timer={t} left={(Date.parse(t.ends_at) - now) / 1000} />
          ))}
        </ul>
      )}
      <NewTimer jobId={view.job.id} />
    </section>
  );
}

function Running({ timer, left }: { timer: Timer; left: number }) {
  const [why, setWhy] = useState<string | null>(null);
  const end = useChange(
    (because: string) =>
      data(
        api.POST("/api/timers/{timer_id}/end", {
          params: { path: { timer_id: timer.id } },
          body: { because },
        }),
      ),
    ofJob(timer.job_id),
  );
  const { label } = timer;
  return (
    <li>
      <strong>{label}</strong>
      <span className="figures">{clock(left)}</span>
      {why === null ? (
        <button type="button" className="plain link" onClick={() => setWhy("")}>
          End it early
        </button>
      ) : (
        <form
          className="inline-form"
          onSubmit={(e) => {
            e.preventDefault();
            end.mutate(why);
          }}
        >
          <TextField
            size="small"
            label={`Why ${label.toLowerCase()} need not be waited for`}
            value={why}
            autoFocus
            onChange={(e) => setWhy(e.target.value)}
          />
          <Button type="submit" size="small" disabled={!why.trim() || end.isPending}>
            End it
          </Button>
        </form>
      )}
      <Trouble error={end.error} />
    </li>
  );
}

function NewTimer({ jobId }: { jobId: number }) {
  const { data: catalogue } = useQuery(catalogueQuery);
  const { register, control, handleSubmit, watch } = useForm<{ kind: Kind; minutes: string }>({
    defaultValues: { kind: "dry", minutes: "10" },
  });
  const start = useChange(
    ({ kind, minutes }: { kind: Kind; minutes: string }) =>
      data(
        api.POST("/api/jobs/{job_id}/timers", {
          params: { path: { job_id: jobId } },
          body: { kind, label: "", minutes: numberOf(minutes) },
        }),
      ),
    ofJob(jobId),
  );
  return (
    <form className="inline-form" onSubmit={handleSubmit((typed) => start.mutate(typed))}>
      <SelectField
        name="kind"
        control={control}
        size="small"
        label="What"
        options={optionsOf<Kind>(catalogue?.waits)}
      />
      <TextField size="small" label="For how many minutes" {...register("minutes")} />
      <Button
        type="submit"
        size="small"
        disabled={!(numberOf(watch("minutes")) > 0) || start.isPending}
      >
        Start the timer
      </Button>
      <Trouble error={start.error} />
    </form>
  );
}
