import Button from "@mui/material/Button";
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { Link, useNavigate, useParams } from "react-router";
import type { Schemas } from "../api/client";
import { lasting } from "../api/problem";
import { samplesQuery, takeQuery } from "../api/queries";
import { decimal, moment, sourceName, stickName } from "../app/format";
import { useKeys } from "../app/keys";
import { Loading, NotShown, Page, Trouble } from "../app/parts";
import { useJobView } from "../job/JobMat";
import { LongTrace } from "../plots/LongTrace";
import { Pin, pinLabel, pinProps } from "../plots/Pin";
import { stepBands, Trace } from "../plots/Trace";
import { useTurnOver } from "../plots/TurnOver";
import type { Band } from "../plots/uplot";
import { AllReadings } from "./AllReadings";
import { Numbers } from "./Numbers";
import { Problems } from "./Problems";
import { TakePlots } from "./TakePlots";
import { TrustNote } from "./TrustNote";
import "./readings.css";

const LONG = 200_000;

const sentence = (text: string) => `${text.charAt(0).toUpperCase()}${text.slice(1)}.`;
/** A stretch of the take, to be shown on the trace. */
const bandOf = (at: Schemas["Where"] | undefined): Band | null =>
  at ? { from: at.from_s, to: at.to_s, label: at.label } : null;
const LOOK_AGAIN_MS = 5_000;

/** What one take says: the sentence, the numbers, the curves, the samples. */
export function Component() {
  const takeId = Number(useParams().takeId);
  const job = useJobView();
  const { data: view, error } = lasting(
    useQuery({
      ...takeQuery(takeId),
      refetchInterval: ({ state }) =>
        state.data?.take.state === "recording" ? LOOK_AGAIN_MS : false,
    }),
  );
  if (error) return <NotShown title="This take cannot be shown." error={error} />;
  if (!view) return <Loading what="the take" />;
  if (view.failed) {
    return (
      <Page title="This take could not be measured.">
        <p className="lead">{sentence(view.failed)} Its samples are kept as they came.</p>
        <p>
          Try again after an update of the program: it is measured anew then by itself. Until then
          take again, or look at the samples in the file.
        </p>
        <p className="actions">
          <Button component={Link} to={`/jobs/${job.job.id}/prove`} variant="contained">
            Take again
          </Button>
          <Button component="a" href={`/api/takes/${takeId}/recording.csv`} download>
            The samples as a file
          </Button>
        </p>
      </Page>
    );
  }
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
  return <Readings key={takeId} view={view} readings={view.readings} />;
}

function Readings({
  view,
  readings,
}: {
  view: Schemas["TakeView"];
  readings: Schemas["TakeReadings"];
}) {
  const job = useJobView();
  const navigate = useNavigate();
  const { take } = view;
  const growing = take.state === "recording";
  const long = growing || readings.recording.samples > LONG;
  const { data: samples, error } = useQuery({ ...samplesQuery(take.id), enabled: !long });
  const [chosen, setChosen] = useState<string | null>(null);
  const [focus, setFocus] = useState<Band | null>(null);
  const { group, turnOver } = useTurnOver(view.figures);
  const choose = (path: string) => {
    const again = chosen === path;
    setChosen(again ? null : path);
    setFocus(again ? null : bandOf(view.where[path]));
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
  return (
    <section className="page readings">
      <Head view={view} readings={readings} />
      <Problems view={view} jobId={job.job.id} />
      {turnOver}
      <Numbers view={view} group={group} choose={choose} chosen={chosen} />
      <TakePlots
        view={view}
        readings={readings}
        samples={samples}
        role={job.takes.find((t) => t.id === take.id)?.mark ?? "now"}
        group={group}
        focus={(band) => {
          setChosen(null);
          setFocus(band);
        }}
      />
      <section className="trace-box">
        <h3>
          Trace
          <span className="soft trace-key">
            x solid{readings.recording.axes.length > 1 && ", y dashed"}; drag to zoom, double-click
            for the whole
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
        {long ? (
          <LongTrace
            takeId={take.id}
            growing={growing}
            focus={focus}
            bands={stepBands(readings)}
            single={readings.recording.axes.length < 2}
            height={104}
          />
        ) : (
          samples && <Trace samples={samples} readings={readings} focus={focus} height={104} />
        )}
      </section>
      <details className="more">
        <summary>All readings</summary>
        <AllReadings view={view} choose={choose} />
      </details>
    </section>
  );
}

const STATE_WORDS = {
  calibration: { factory: "factory calibration", recalibrated: "recalibrated", unknown: "" },
  power: { cable: "on cable", battery: "on battery", unknown: "" },
  shell: { open: "shell open", closed: "shell closed", unknown: "" },
} as const;

function Head({
  view,
  readings,
}: {
  view: Schemas["TakeView"];
  readings: Schemas["TakeReadings"];
}) {
  const { take } = view;
  const { rate_hz: rate } = readings.recording;
  const pin = pinProps(view.pin);
  const had = take.conditions;
  const own = take.ranges.some((r) => r.calibration && r.calibration !== "unknown");
  const how = [
    own && "its own calibration applied",
    STATE_WORDS.calibration[had.calibration],
    STATE_WORDS.power[had.power],
    STATE_WORDS.shell[had.shell],
    had.role,
  ].filter(Boolean);
  const steps = [readings.still?.resolution_x, readings.still?.resolution_y].filter(
    (s): s is number => !!s,
  );
  return (
    <header className="headline">
      <Pin {...pin} size={84} label={pinLabel(stickName(take.stick), pin)} />
      <div>
        <h1 className="sentence">
          {take.state === "recording" && "So far: "}
          {view.meaning?.sentence}
        </h1>
        <p className="lead">{view.meaning?.advice}</p>
        <p className="soft meta">
          Take {take.id} · {stickName(take.stick)}, {take.stage} · {moment(take.started_at)} ·{" "}
          {sourceName(take.source_kind, take.source_name)}
          {rate !== null && ` · ${decimal(rate, 0)} Hz`}
          {steps.length > 0 && `, one step ${decimal(Math.min(...steps), 2)} %`}
          {readings.still && readings.still.gaps > 0 && `, ${readings.still.gaps} gaps in Still`}
          {how.length > 0 && ` · ${how.join(", ")}`} ·{" "}
          <a href={`/api/takes/${take.id}/recording.csv`} download>
            recording file
          </a>
          <TrustNote trust={view.trust} take={take} />
        </p>
      </div>
    </header>
  );
}
