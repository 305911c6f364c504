import { decimal } from "../app/format";
import type { Progress } from "./live";
import "./capture.css";

type Part = Progress["parts"][number];

function Bar({ part, unit }: { part: Part; unit: string }) {
  const done = Math.min(part.done, part.wanted);
  const digits = unit === "laps" || unit === "s" ? 1 : 0;
  return (
    <label>
      <span>
        {part.label}{" "}
        <span className="figures">
          {decimal(done, digits)} of {decimal(part.wanted, 0)} {unit}
        </span>
      </span>
      <progress max={part.wanted} value={Math.max(0, done)} />
    </label>
  );
}

function Seconds({ part }: { part: Part }) {
  const seconds = Math.min(part.done, part.wanted);
  const long = part.wanted >= 120;
  const clock = (s: number) =>
    `${Math.floor(s / 60)}:${String(Math.floor(s % 60)).padStart(2, "0")}`;
  return (
    <div className="count">
      <p className="figure">
        {long ? clock(seconds) : decimal(seconds)}
        <small> of {long ? `${clock(part.wanted)} min` : `${decimal(part.wanted, 0)} s`}</small>
      </p>
      <progress max={part.wanted} value={seconds} aria-label="Seconds of Still" />
    </div>
  );
}

function Releases({ parts }: { parts: Part[] }) {
  const wanted = parts[0]?.wanted ?? 0;
  const done = parts.reduce((sum, p) => sum + Math.min(p.done, p.wanted), 0);
  const rings = Math.max(1, wanted);
  return (
    <div className="count">
      <p className="figure">
        {done}
        <small> of {parts.length * wanted} releases</small>
      </p>
      <svg className="dial" viewBox="-60 -60 120 120" role="img" aria-label="Releases by direction">
        {parts.map((part) => {
          const angle = (Math.floor((Number(part.label) * 30 + 22.5) / 45) * 45 * Math.PI) / 180;
          return Array.from({ length: wanted }, (_, k) => {
            const r = rings === 1 ? 40 : 26 + (26 * k) / (rings - 1);
            return (
              <circle
                key={`${part.label}-${k}`}
                className={part.done > k ? "full" : "open"}
                cx={r * Math.sin(angle)}
                cy={-r * Math.cos(angle)}
                r={rings > 3 ? 4 : 6}
              />
            );
          });
        })}
      </svg>
    </div>
  );
}

const UNIT: Partial<Record<string, string>> = { rim: "laps", "let-go": "" };
const IN_PAIRS = ["let-go", "hold", "turn"];

/** How much of the present step is done. */
export function Count({ progress }: { progress: Progress }) {
  const { parts } = progress;
  const step = progress.step ?? "";
  const first = parts[0];
  if (!first) return null;
  if (step === "still") return <Seconds part={first} />;
  // A single axis has two ends, and no dial to draw them on.
  const around = parts.length > 2;
  if (step === "let-go" && around) return <Releases parts={[...parts]} />;
  const unit = (part: Part) => UNIT[step] ?? (part.label === "passes" ? "passes" : "s");
  return (
    <div className={`count bars ${IN_PAIRS.includes(step) ? "pairs" : ""}`}>
      {parts.map((part) => (
        <Bar key={part.label} part={part} unit={unit(part)} />
      ))}
    </div>
  );
}
