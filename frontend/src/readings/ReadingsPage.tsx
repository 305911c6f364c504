import Button from "@mui/material/Button";
import { useQuery } from "@tanstack/react-query";
import { useMemo, useState } from "react";
import { Link, useNavigate, useParams } from "react-router";
import type { Schemas } from "../api/client";
import { samplesQuery, takeQuery } from "../api/queries";
import { between, type Samples } from "../api/samples";
import { decimal, moment, sourceName, stickName } from "../app/format";
import { useKeys } from "../app/keys";
import { Loading, Page, Trouble } from "../app/parts";
import { useJobView } from "../job/JobMat";
import { Pin, pinLabel } from "../plots/Pin";
import { RestCloud } from "../plots/RestCloud";
import { ReturnRose } from "../plots/ReturnRose";
import { RimUnrolled } from "../plots/RimUnrolled";
import { type Role, stageRole } from "../plots/stage";
import { Trace } from "../plots/Trace";
import type { Band } from "../plots/uplot";
import { AllReadings } from "./AllReadings";
import { evidence } from "./evidence";
import { Numbers } from "./Numbers";
import { Problems } from "./Problems";

/** What one take says: the sentence, the numbers, the curves, the samples. */
export function Component() {
  const takeId = Number(useParams().takeId);
  const job = useJobView();
  const { data: view, error } = useQuery(takeQuery(takeId));
  const { data: samples, error: lost } = useQuery({
    ...samplesQuery(takeId),
    enabled: view?.readings != null,
  });
  if (error) {
    return (
      <Page title="This take cannot be shown.">
        <Trouble error={error} />
      </Page>
    );
  }
  if (!view) return <Loading what="the take" />;
  if (!view.readings) {
    return (
      <Page title="This take holds no samples.">
        <p className="lead">
          {view.take.state === "recording"
            ? "It has not begun, or runs in another window."
            : `It ended before the first sample came: ${view.take.ended_because ?? "nothing was recorded"}.`}
        </p>
        <Button component={Link} to={`/jobs/${job.job.id}/prove`} variant="contained">
          Take again
        </Button>
      </Page>
    );
  }
  return (
    <Readings key={takeId} view={view} readings={view.readings} samples={samples} error={lost} />
  );
}

function Readings({
  view,
  readings,
  samples,
  error,
}: {
  view: Schemas["TakeView"];
  readings: Schemas["TakeReadings"];
  samples: Samples | undefined;
  error: Error | null;
}) {
  const job = useJobView();
  const navigate = useNavigate();
  const { take } = view;
  const [chosen, setChosen] = useState<string | null>(null);
  const [focus, setFocus] = useState<Band | null>(null);
  const role: Role = stageRole(take, job.takes);
  const needed = view.limits["composite.dead_zone_needed"];
  const choose = (path: string) => {
    const again = chosen === path;
    setChosen(again ? null : path);
    setFocus(again ? null : evidence(path, readings));
  };
  const whole = () => {
    setChosen(null);
    setFocus(null);
  };
  useKeys([
    {
      key: "d",
      shown: "D",
      does: "decide",
      run: () => navigate(`/jobs/${job.job.id}/decide`),
    },
    { key: "w", shown: "W", does: "whole trace", run: whole, when: focus !== null },
  ]);
  const still = readings.spans.still;
  const rest = useMemo(
    () => (samples && still ? between(samples, still.from_s, still.to_s) : { x: [], y: [] }),
    [samples, still],
  );
  const rate = readings.recording.rate_hz;
  const pin = {
    x: readings.still?.rest_x,
    y: readings.still?.rest_y,
    deadZone: readings.composite.dead_zone_needed,
    limit: needed?.limit ?? 8,
    verdict: needed?.verdict,
    state:
      readings.composite.dead_zone_needed === null ? ("unusable" as const) : ("measured" as const),
  };
  return (
    <section className="page readings">
      <header className="headline">
        <Pin {...pin} size={92} label={pinLabel(stickName(take.stick), pin)} />
        <div>
          <h1 className="sentence">{view.meaning?.sentence}</h1>
          <p className="lead">{view.meaning?.advice}</p>
          <p className="soft meta">
            Take {take.id} · {stickName(take.stick)}, {take.stage} · {moment(take.started_at)} ·{" "}
            {sourceName(take.source_kind, take.source_name)}
            {rate !== null && ` · ${decimal(rate, 0)} Hz`}
            {readings.still && readings.still.gaps > 0 && `, ${readings.still.gaps} gaps in Still`}{" "}
            ·{" "}
            <a href={`/api/takes/${take.id}/recording.csv`} download>
              recording file
            </a>
          </p>
        </div>
      </header>
      <Problems view={view} jobId={job.job.id} />
      <Numbers view={view} choose={choose} chosen={chosen} />
      <div className="plots">
        <RestCloud
          limit={needed?.limit ?? 8}
          rests={[
            {
              role,
              label: `Take ${take.id}`,
              ...rest,
              deadZone: readings.composite.dead_zone_needed,
            },
          ]}
        />
        {readings.let_go && (
          <ReturnRose
            limit={needed?.limit ?? 8}
            returns={[{ role, label: `Take ${take.id}`, release: readings.let_go.release }]}
            choose={(r) => {
              setChosen(null);
              setFocus({ from: r.t_s, to: r.end_s, label: "one release" });
            }}
          />
        )}
        {readings.rim && (
          <RimUnrolled
            gate={take.gate}
            rims={[{ role, label: `Take ${take.id}`, radius: readings.rim.radius }]}
          />
        )}
      </div>
      <section className="trace-box">
        <h3>
          Trace
          <span className="soft trace-key">
            x solid, y dashed; ticks: releases above, spikes below; drag to zoom
          </span>
          {focus && (
            <>
              <span className="soft"> · {focus.label}</span>
              <button type="button" className="plain link" onClick={whole}>
                Show the whole take
              </button>
            </>
          )}
        </h3>
        <Trouble error={error} />
        {samples && <Trace samples={samples} readings={readings} focus={focus} height={124} />}
      </section>
      <details className="more">
        <summary>All readings</summary>
        <AllReadings view={view} choose={choose} />
      </details>
    </section>
  );
}
