import type { Schemas } from "../api/client";
import { decimal } from "../app/format";
import "./plots.css";

export interface PinProps {
  /** Where the stick rests and the dead zone it needs, % of half range. */
  x?: number | null | undefined;
  y?: number | null | undefined;
  deadZone?: number | null | undefined;
  limit: number;
  state: "none" | "measured" | "stale" | "unusable" | "live";
  verdict?: "within" | "borderline" | "over" | "hidden" | "unknown" | undefined;
  /** What the disc shows, where it is not the dead zone needed. */
  tells?: string | undefined;
  size?: number;
  label: string;
}

const RING = 40;
const isNear = (verdict: PinProps["verdict"]) => verdict === "borderline" || verdict === "hidden";

/**
 * The pin: the ring is the limit, the disc the dead zone needed, the dot where the stick rests, with
 * a hair toward its hour. The scale is fixed, so two pins compare; what lies farther out stops at
 * the edge.
 */
export function Pin({ x, y, deadZone, limit, state, verdict, size = 32, label }: PinProps) {
  const scale = RING / (limit * 1.6);
  const ring = limit * scale;
  const measured = x !== null && x !== undefined && y !== null && y !== undefined;
  const tone = verdict === "over" ? "over" : isNear(verdict) ? "near" : "within";
  const away = measured ? Math.hypot(x, y) * scale : 0;
  const pull = away > 46 ? 46 / away : 1;
  const px = measured ? x * scale * pull : 0;
  const py = measured ? -y * scale * pull : 0;
  const disc = Math.min((deadZone ?? 0) * scale, 47);
  const dashed =
    state === "stale" || state === "unusable" || state === "none" || verdict === "hidden";
  return (
    <svg
      className={`pin ${state} ${tone}`}
      width={size}
      height={size}
      viewBox="-50 -50 100 100"
      {...(label ? { role: "img", "aria-label": label } : { "aria-hidden": true })}
    >
      {deadZone ? <circle className="disc" r={disc} /> : null}
      <circle className="ring" r={ring} strokeDasharray={dashed ? "8 7" : undefined} />
      {measured && (
        <>
          {away > 3 && <line className="hair" x1={0} y1={0} x2={px} y2={py} />}
          <circle className="dot" cx={px} cy={py} r={size > 60 ? 4.5 : 7} />
        </>
      )}
      {size > 60 && (
        <>
          <line className="tick" x1={0} y1={-ring - 4} x2={0} y2={-ring + 4} />
          <line className="tick" x1={0} y1={ring - 4} x2={0} y2={ring + 4} />
          <line className="tick" x1={-ring - 4} y1={0} x2={-ring + 4} y2={0} />
          <line className="tick" x1={ring - 4} y1={0} x2={ring + 4} y2={0} />
        </>
      )}
    </svg>
  );
}

/** A pin as the server tells it. */
export function pinProps(pin: Schemas["Pin"]): Omit<PinProps, "size" | "label"> {
  return {
    x: pin.x,
    y: pin.y,
    deadZone: pin.dead_zone,
    limit: pin.limit,
    state: pin.state,
    verdict: pin.verdict,
    tells: pin.tells,
  };
}

export function pinLabel(stick: string, pin: Omit<PinProps, "label" | "size">): string {
  if (pin.state === "none") return `${stick}: not measured`;
  if (pin.state === "unusable" || pin.deadZone == null) return `${stick}: take not usable`;
  const stale = pin.state === "stale" ? ", worked on since" : "";
  const what = pin.tells === "turn.jitter" ? "trembles by" : "dead zone needed";
  const verdict = {
    within: "within",
    borderline: "near",
    over: "over",
    unknown: "against",
    hidden: "hidden by the source, against",
  };
  return `${stick}: ${what} ${decimal(pin.deadZone)} %, ${verdict[pin.verdict ?? "unknown"]} the limit of ${decimal(pin.limit)} %${stale}`;
}
