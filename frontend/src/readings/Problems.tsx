import Button from "@mui/material/Button";
import { Link } from "react-router";
import type { Schemas } from "../api/client";
import { stepLabel } from "../plots/steps";
import "./readings.css";

/** What cannot be used, why, and how to do that step again; and, quietly, what is as it should be. */
export function Problems({ view, jobId }: { view: Schemas["TakeView"]; jobId: number }) {
  const readings = view.readings;
  const { steps } = view.take.routine;
  const missing = view.take.source_kind === "file" ? [] : steps.filter((s) => !readings?.spans[s]);
  const listed = readings?.problems ?? [];
  const notes = listed.filter((p) => p.kind === "note");
  const problems = listed.filter((p) => p.kind !== "note");
  const silent = missing.filter((step) => !problems.some((p) => p.step === step));
  const interrupted = view.take.state === "interrupted";
  const loud = problems.length > 0 || silent.length > 0 || interrupted;
  const resumed = (asked: string[], label: string) =>
    view.may_resume && (
      <Button
        key={label}
        size="small"
        variant={asked.length > 1 ? "contained" : "outlined"}
        component={Link}
        to={`/jobs/${jobId}/takes/${view.take.id}/live?${new URLSearchParams(asked.map((s) => ["step", s]))}`}
      >
        {label}
      </Button>
    );
  const hidden = new Set(readings?.hidden.map((h) => h.code));
  const titleOf = (p: Schemas["Problem"]) =>
    p.step !== "take" ? stepLabel(p.step) : hidden.has(p.code) ? "Hidden" : "Source";
  const quiet = notes.length > 0 && (
    <section className="soft notes" aria-label="Also seen">
      {notes.map((p) => (
        <p key={p.code}>
          {titleOf(p)}: {p.message}
        </p>
      ))}
    </section>
  );
  if (!loud) return quiet;
  const again = (step: string) => resumed([step], `Do ${stepLabel(step)} again`);
  return (
    <>
      <section className="problems" aria-label="What to know about this take">
        {interrupted && (
          <p>
            <strong>Interrupted:</strong> {view.take.ended_because}. What was recorded is kept.
          </p>
        )}
        {problems.map((p) => (
          <p key={`${p.step} ${p.code} ${p.message}`}>
            <strong>{titleOf(p)}:</strong> {p.message}{" "}
            {p.step !== "take" && p.kind === "again" && again(p.step)}
          </p>
        ))}
        {(silent.length > 0 || missing.length > 1) && (
          <div className="silent">
            {silent.length > 0 && <strong>Not measured:</strong>}
            {missing.length > 1 && resumed(missing, "Do all that is missing")}
            {silent.map((step) => again(step) || <span key={step}>{stepLabel(step)}</span>)}
          </div>
        )}
      </section>
      {quiet}
    </>
  );
}
