import Button from "@mui/material/Button";
import TextField from "@mui/material/TextField";
import { useQuery } from "@tanstack/react-query";
import { useRef, useState } from "react";
import { api, data, type Schemas } from "../api/client";
import { catalogueQuery, useChange } from "../api/queries";
import { ofJob } from "../api/touched";
import { useKeys } from "../app/keys";
import { Trouble } from "../app/parts";
import { Plan } from "./Plan";
import { StepPhotos } from "./StepPhotos";
import "./work.css";

type OpeningView = Schemas["OpeningView"];
type Way = Schemas["Tick"]["way"];

/** Ticks a step off, each once however fast the key comes, or takes the last one back. */
export function useTicks(jobId: number) {
  const lastAsked = useRef("");
  const path = { params: { path: { job_id: jobId } } };
  const tick = useChange(
    (body: { way: Way; step: string; note: string }) =>
      data(api.POST("/api/jobs/{job_id}/opening/ticks", { ...path, body })),
    ofJob(jobId),
  );
  const back = useChange(
    () => data(api.DELETE("/api/jobs/{job_id}/opening/ticks/last", path)),
    ofJob(jobId),
  );
  const once = (way: Way, step: string, note: string, then?: () => void) => {
    if (lastAsked.current === `${way} ${step}`) return;
    lastAsked.current = `${way} ${step}`;
    tick.mutate(
      { way, step, note },
      {
        ...(then && { onSuccess: then }),
        onError: () => {
          lastAsked.current = "";
        },
      },
    );
  };
  const undo = () => {
    lastAsked.current = "";
    back.mutate(undefined);
  };
  return { once, undo, error: tick.error ?? back.error };
}

/** The steps of a shell, one after the other, by one key; on the way out, or on the way back. */
export function StepWalk({ jobId, view, way }: { jobId: number; view: OpeningView; way: Way }) {
  const { once, undo, error } = useTicks(jobId);
  const [note, setNote] = useState("");
  const { data: catalogue } = useQuery(catalogueQuery);
  const sheet = view.opening?.sheet ?? view.kept.sheet;
  const progress = way === "out" ? view.opens : view.shuts;
  const goes = progress.way === way;
  const next = goes ? sheet.steps.find((s) => s.id === progress.next) : undefined;
  const ticked = (which: Way) =>
    new Set(view.ticks.filter((t) => t.way === which).map((t) => t.step));
  const [out, returned] = [ticked("out"), ticked("back")];
  const loose = new Set([...out].filter((s) => !returned.has(s)));
  const noteOut = next && view.ticks.find((t) => t.way === "out" && t.step === next.id)?.note;
  const run = () => {
    if (next) once(way, next.id, note, () => setNote(""));
  };
  useKeys([
    {
      key: "space",
      shown: "Space",
      does: way === "out" ? "done, next step" : "back in, next",
      run,
      when: next !== undefined,
    },
    {
      key: "backspace",
      shown: "⌫",
      does: "take the last back",
      run: undo,
      when: view.ticks.length > 0,
    },
  ]);
  const steps = way === "out" ? sheet.steps : sheet.steps.filter((s) => out.has(s.id)).reverse();
  const done = way === "out" ? out : returned;
  const place = next ? sheet.steps.indexOf(next) + 1 : 0;
  return (
    <div className="walk">
      <div className="walk-now">
        {next && (
          <>
            <p className="soft">
              <span className="figures">
                {way === "out" ? place : steps.indexOf(next) + 1} of {steps.length}
              </span>{" "}
              {catalogue?.step_kinds[next.kind]}
              {next.driver && `, ${next.driver}`}
              {way === "back" && ", the other way round"}
            </p>
            <p className="walk-words" role="status">
              {next.words}
            </p>
            {next.warning && <p className="over">{next.warning}</p>}
            {way === "back" && view.backs[next.id] && <p>{view.backs[next.id]}</p>}
            {way === "back" && noteOut && (
              <p>
                <strong>Noted when it came out:</strong> {noteOut}
              </p>
            )}
            <StepPhotos
              key={next.id}
              jobId={jobId}
              step={next}
              photos={view.photos}
              add={way === "out"}
            />
            {way === "out" && (
              <TextField
                size="small"
                fullWidth
                label="Colours, places, what differed"
                value={note}
                onChange={(e) => setNote(e.target.value)}
              />
            )}
            <p className="actions">
              <Button variant="contained" size="large" onClick={run}>
                {way === "out" ? "Done" : "Back in"} <kbd>Space</kbd>
              </Button>
            </p>
          </>
        )}
        <Trouble error={error} />
        <ol className="walk-steps">
          {steps.map((s) => (
            <li key={s.id} className={done.has(s.id) ? "done" : s === next ? "next" : ""}>
              <span className={`station-mark ${done.has(s.id) ? "done" : ""}`} aria-hidden="true" />
              <span>
                {s.words}
                <span className="hidden">{done.has(s.id) ? ", done" : ""}</span>
              </span>
            </li>
          ))}
        </ol>
      </div>
      <Plan steps={sheet.steps} fasteners={progress.fasteners} at={next?.id ?? null} out={loose} />
    </div>
  );
}
