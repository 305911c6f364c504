import Button from "@mui/material/Button";
import LinearProgress from "@mui/material/LinearProgress";
import { useQuery } from "@tanstack/react-query";
import { useEffect } from "react";
import { useSearchParams } from "react-router";
import type { Schemas } from "../api/client";
import { sourceChecksQuery } from "../api/queries";
import { day, decimal } from "../app/format";
import { useKeys } from "../app/keys";
import type { SourceState } from "./source";
import { useSourceCheck } from "./useSourceCheck";
import "./capture.css";

type KeptCheck = Schemas["KeptSourceCheck"];

const MARK: Record<Schemas["SourceCheck"]["standing"], string> = {
  clean: "within",
  usable: "near",
  hides: "over",
  unknown: "near",
};

/** What a source was found to be like. */
function LastCheck({ kept }: { kept: KeptCheck }) {
  const { check } = kept;
  return (
    <>
      <p>
        <strong className={MARK[check.standing]}>{check.says}</strong>{" "}
        <span className="soft">
          {check.rate_hz !== null && `${decimal(check.rate_hz)} Hz. `}
          {check.axes
            .map((a) => `${a.axis} in ${a.values} steps of ${a.step.toPrecision(2)} %`)
            .join(", ")}
          . Tried out {day(kept.at)}.
        </span>
      </p>
      {(check.findings.length > 0 || check.advice) && (
        <ul className="plain-list">
          {check.findings.map((f) => (
            <li key={f.words} className={f.hides ? "over" : ""}>
              {f.words}
            </li>
          ))}
          {check.advice && <li>{check.advice}</li>}
        </ul>
      )}
    </>
  );
}

/** Some seconds of moving the stick tell what the source hides, before anything is measured by it. */
export function SourceCheck({
  view,
  stick,
  source,
  busy,
}: {
  view: Schemas["JobView"];
  stick: Schemas["ModelStick"];
  source: SourceState;
  /** Told whether it is being tried out just now. */
  busy: (running: boolean) => void;
}) {
  const [search] = useSearchParams();
  const model = view.job.controller.model;
  const { data: checks } = useQuery(sourceChecksQuery(model.id));
  const check = useSourceCheck();
  const body = source.body(stick);
  const ready = body !== null && !check.running;
  const lastCheck = checks?.find(
    (c) => c.source_kind === source.kind && c.source_name === source.name,
  );
  const begin = () => {
    if (!body) return;
    check.begin({
      jobId: view.job.id,
      model: model.id,
      stick: stick.name,
      source: body,
      there: source.there,
      pad: source.pad?.index ?? Number(search.get("pad") ?? 0),
    });
  };
  useKeys([
    { key: "k", shown: "K", does: "try the source out", run: begin, when: ready },
    {
      key: "escape",
      shown: "Esc",
      does: "end it here",
      run: check.finish,
      when: check.running,
    },
  ]);
  const { now, running } = check;
  useEffect(() => busy(running), [busy, running]);
  return (
    <fieldset className="source-check">
      <legend>What the source is like</legend>
      {running ? (
        <>
          <p role="status">
            <strong>{now?.says ?? "Opening the source…"}</strong>{" "}
            <span className="figures soft">
              {now?.rate_hz ? `${decimal(now.rate_hz)} Hz, ` : ""}
              {decimal(now?.seconds ?? 0)} s
            </span>
          </p>
          <LinearProgress
            aria-label="How much of it was seen"
            variant="determinate"
            value={100 * (now?.done ?? 0)}
          />
        </>
      ) : (
        <>
          {lastCheck ? (
            <LastCheck kept={lastCheck} />
          ) : (
            <p className="soft">
              This source was not tried out with a {model.name} yet. Ten seconds of moving the stick
              tell its rate and what it hides.
            </p>
          )}
          {check.trouble && (
            <p className="over" role="alert">
              {check.trouble}
            </p>
          )}
        </>
      )}
      <p className="actions">
        {running ? (
          <Button size="small" onClick={check.finish}>
            End it here
          </Button>
        ) : (
          <Button size="small" onClick={begin} disabled={!ready}>
            {lastCheck ? "Try it out again" : "Try the source out"}
          </Button>
        )}
      </p>
    </fieldset>
  );
}
