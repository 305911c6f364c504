import { useColorScheme } from "@mui/material/styles";
import { useQuery } from "@tanstack/react-query";
import { useEffect, useState } from "react";
import { useMatch } from "react-router";
import { jobQuery, stateQuery } from "../api/queries";
import { RailTimers } from "../work/RailTimers";
import { decimal, moment } from "./format";
import { usePrintedKeys } from "./keys";
import { setMuted, useLiveSource, useMuted } from "./liveSource";
import { setBenchRole, useBenchRole } from "./role";
import { Unanswered } from "./Unanswered";

const SHOWN_KEYS = 7;

function Source() {
  const source = useLiveSource();
  if (!source) return <span className="soft">No live source</span>;
  return (
    <span role="status">
      <strong>{source.name}</strong>{" "}
      {source.state === "lost" ? (
        <span className="over">lost</span>
      ) : (
        <span className="figures">
          {source.rateHz === null ? "…" : `${decimal(source.rateHz)} Hz`} · {source.gaps} gap
          {source.gaps === 1 ? "" : "s"}
          {Object.entries(source.notes).map(([what, count]) => (
            <span key={what} className="near">
              {" "}
              · {count} {what.replace("-", " ")}
            </span>
          ))}
          {source.known && (
            <span className={source.known.hides ? "over" : "soft"}> · {source.known.words}</span>
          )}
        </span>
      )}
    </span>
  );
}

/** Since when the job has been on the bench. */
function JobClock() {
  const match = useMatch("/jobs/:jobId/*");
  const id = Number(match?.params.jobId ?? 0);
  const { data } = useQuery({ ...jobQuery(id), enabled: id > 0 });
  const [now, setNow] = useState(Date.now());
  useEffect(() => {
    const timer = setInterval(() => setNow(Date.now()), 20_000);
    return () => clearInterval(timer);
  }, []);
  if (!data) return null;
  const end = data.job.closed_at ? Date.parse(data.job.closed_at) : now;
  const minutes = Math.max(0, Math.floor((end - Date.parse(data.job.opened_at)) / 60_000));
  const hours = Math.floor(minutes / 60);
  const elapsed =
    hours >= 48
      ? `${Math.floor(hours / 24)} days`
      : `${hours}:${String(minutes % 60).padStart(2, "0")}`;
  return (
    <span>
      Job <span className="figures">{elapsed}</span>
    </span>
  );
}

/** Which bench role goes on record; said once, kept at this machine. */
function BenchRole() {
  const role = useBenchRole();
  const [typed, setTyped] = useState<string | null>(null);
  if (typed === null) {
    return (
      <button type="button" className="plain rail-role" onClick={() => setTyped(role)}>
        {role || "Bench role?"}
      </button>
    );
  }
  const keep = () => {
    setBenchRole(typed);
    setTyped(null);
  };
  return (
    <input
      className="rail-input"
      aria-label="Bench role"
      placeholder="such as morning bench"
      // biome-ignore lint/a11y/noAutofocus: it opens where it was asked for
      autoFocus
      maxLength={200}
      value={typed}
      onChange={(e) => setTyped(e.target.value)}
      onBlur={keep}
      onKeyDown={(e) => {
        if (e.key === "Enter") keep();
        if (e.key === "Escape") setTyped(null);
      }}
    />
  );
}

function Light() {
  const { mode, systemMode, setMode } = useColorScheme();
  const dark = (mode === "system" ? systemMode : mode) === "dark";
  return (
    <button type="button" className="plain" onClick={() => setMode(dark ? "light" : "dark")}>
      {dark ? "Light" : "Dark"}
    </button>
  );
}

const HOUR_MS = 3_600_000;

function ago(at: string): string {
  const hours = Math.max(0, Math.floor((Date.now() - Date.parse(at)) / HOUR_MS));
  if (hours < 1) return "just now";
  return hours < 48 ? `${hours} h ago` : `${Math.floor(hours / 24)} days ago`;
}

/** How the bench itself is: what is wrong, what is worked out anew, when it was last copied. */
function BenchState() {
  const { data: state } = useQuery(stateQuery);
  if (!state) return null;
  const [trouble] = state.troubles;
  if (trouble) {
    return (
      <span role="alert" className="over rail-trouble" title={state.troubles.join(" ")}>
        {trouble}
      </span>
    );
  }
  if (state.measuring) {
    const { done, total } = state.measuring;
    return (
      <span role="status">
        Measuring anew{" "}
        <span className="figures">
          {done} of {total}
        </span>
      </span>
    );
  }
  if (!state.backup) return <span className="soft">No backup yet</span>;
  return (
    <span
      className={state.backup.old ? "near" : "soft"}
      title={`${moment(state.backup.at)}: ${state.backup.path}`}
    >
      Backup {ago(state.backup.at)}
    </span>
  );
}

export function Rail() {
  const keys = usePrintedKeys();
  const muted = useMuted();
  return (
    <footer className="rail">
      <Source />
      <span className="rail-keys">
        {keys.slice(0, SHOWN_KEYS).map((k) => (
          <span key={k.key}>
            <kbd>{k.shown}</kbd> {k.does}
          </span>
        ))}
      </span>
      <span className="rail-end">
        <Unanswered />
        <RailTimers />
        <BenchState />
        <JobClock />
        <BenchRole />
        <button
          type="button"
          className="plain"
          aria-pressed={muted}
          onClick={() => setMuted(!muted)}
        >
          {muted ? "Muted" : "Sound on"}
        </button>
        <Light />
      </span>
    </footer>
  );
}
