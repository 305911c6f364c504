import { useEffect, useState } from "react";
import { api, data, type Schemas } from "../api/client";
import { useChange } from "../api/queries";
import { ofJob } from "../api/touched";
import { useKeys } from "../app/keys";
import { clock } from "./clock";
import "./work.css";

/** Seconds that a job was worked on by now. */
function workedFor(kept: Schemas["WorkClock"], now: number): number {
  const since = kept.running_since ? Math.max(0, now - Date.parse(kept.running_since)) / 1000 : 0;
  return kept.seconds + since;
}

/** How long it was worked on, with pauses; use: takes its minutes into the form. */
export function WorkClock({
  view,
  use,
}: {
  view: Schemas["JobView"];
  use: (minutes: number) => void;
}) {
  const { clock: kept, job } = view;
  const [now, setNow] = useState(Date.now());
  const runs = kept.running_since !== null;
  useEffect(() => {
    setNow(Date.now());
    if (!runs) return;
    const every = setInterval(() => setNow(Date.now()), 1000);
    return () => clearInterval(every);
  }, [runs]);
  const move = useChange(
    (does: "run" | "pause" | "reset") =>
      data(
        api.PUT("/api/jobs/{job_id}/clock", {
          params: { path: { job_id: job.id } },
          body: { do: does },
        }),
      ),
    ofJob(job.id),
  );
  const toggle = () => move.mutate(runs ? "pause" : "run");
  useKeys([{ key: "p", shown: "P", does: runs ? "pause the clock" : "clock runs", run: toggle }]);
  const seconds = workedFor(kept, now);
  return (
    <p className="work-clock">
      <span className="figures">{clock(Math.floor(seconds))}</span>
      <button type="button" className="plain link" onClick={toggle}>
        {runs ? "Pause" : seconds > 0 ? "Go on" : "Start the clock"}
      </button>
      {seconds > 0 && (
        <>
          <button
            type="button"
            className="plain link"
            onClick={() => use(Math.max(1, Math.round(seconds / 60)))}
          >
            Take it over
          </button>
          <button type="button" className="plain link" onClick={() => move.mutate("reset")}>
            Set it back
          </button>
        </>
      )}
    </p>
  );
}
