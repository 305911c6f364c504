import { decimal } from "../app/format";
import type { Progress } from "./live";

function Seconds({ progress }: { progress: Progress }) {
  const seconds = Math.min(progress.counts[0] ?? 0, progress.wanted);
  return (
    <div className="count">
      <p className="figure">
        {decimal(seconds)}
        <small> of {decimal(progress.wanted, 0)} s</small>
      </p>
      <progress max={progress.wanted} value={seconds} aria-label="Seconds of Still" />
    </div>
  );
}

function Releases({ progress }: { progress: Progress }) {
  const { counts, wanted } = progress;
  const asked = counts.map((_, i) => i);
  const done = asked.reduce((sum, i) => sum + Math.min(counts[i] ?? 0, wanted), 0);
  return (
    <div className="count">
      <p className="figure">
        {done}
        <small> of {asked.length * wanted} releases</small>
      </p>
      <svg className="dial" viewBox="-60 -60 120 120" role="img" aria-label="Releases by direction">
        {asked.map((i) => {
          const angle = (i * 45 * Math.PI) / 180;
          return Array.from({ length: wanted }, (_, k) => {
            const r = 30 + 18 * k;
            return (
              <circle
                key={`${i}-${k}`}
                className={(counts[i] ?? 0) > k ? "full" : "open"}
                cx={r * Math.sin(angle)}
                cy={-r * Math.cos(angle)}
                r={6}
              />
            );
          });
        })}
      </svg>
    </div>
  );
}

function Laps({ progress }: { progress: Progress }) {
  const [cw = 0, ccw = 0] = progress.counts;
  const bar = (laps: number, label: string) => (
    <label>
      <span>
        {label}{" "}
        <span className="figures">
          {decimal(Math.min(laps, progress.wanted))} of {progress.wanted}
        </span>
      </span>
      <progress max={progress.wanted} value={Math.max(0, Math.min(laps, progress.wanted))} />
    </label>
  );
  return (
    <div className="count laps">
      {bar(cw, "Laps clockwise")}
      {bar(ccw, "Laps the other way")}
    </div>
  );
}

/** How much of the present step is done. */
export function Count({ progress }: { progress: Progress }) {
  if (progress.step === "still") return <Seconds progress={progress} />;
  if (progress.step === "let-go") return <Releases progress={progress} />;
  return <Laps progress={progress} />;
}
