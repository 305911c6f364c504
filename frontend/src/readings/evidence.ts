import type { Schemas } from "../api/client";
import type { Band } from "../plots/uplot";

type Readings = Schemas["TakeReadings"];

const STEP: Record<string, string> = { let_go: "let-go" };

function farthest(readings: Readings): Schemas["Release"] | undefined {
  return [...(readings.let_go?.release ?? [])].sort(
    (a, b) => Math.hypot(b.final_x, b.final_y ?? 0) - Math.hypot(a.final_x, a.final_y ?? 0),
  )[0];
}

/** The samples a reading came from, as a stretch of the take. */
export function evidence(path: string, readings: Readings): Band | null {
  const [step = ""] = path.split(".");
  const release = farthest(readings);
  const fromReleases =
    path === "let_go.return_max" ||
    (path === "composite.dead_zone_needed" &&
      (readings.let_go?.return_max ?? 0) >= (readings.still?.rest_offset ?? 0));
  if (fromReleases && release) {
    return {
      from: release.t_s,
      to: release.end_s,
      label: "the release that was left farthest out",
    };
  }
  const highest = [...(readings.still?.spike ?? [])].sort(
    (a, b) => Math.abs(b.height) - Math.abs(a.height),
  )[0];
  if (path.includes("spike") && highest) {
    return { from: highest.t_s - 0.1, to: highest.t_s + 0.1, label: "the highest spike" };
  }
  const jump = readings.joint.jump[0];
  if (path === "joint.jumps_per_min" && jump) {
    return { from: jump.t_s - 0.2, to: jump.t_s + jump.lasted_s + 0.2, label: "the first jump" };
  }
  if (path.startsWith("hold.")) {
    const drops = path === "hold.dropouts_per_min";
    const worst = [...(readings.hold ?? [])].sort((a, b) =>
      drops ? b.dropouts - a.dropouts : b.sag - a.sag,
    )[0];
    return worst
      ? {
          from: worst.t_s,
          to: worst.end_s,
          label: drops ? "the hold that drops most" : "the hold that falls back most",
        }
      : null;
  }
  const [, axis] = path.split(".");
  const name =
    step === "composite"
      ? path.includes("circularity") || path.includes("shape")
        ? "rim"
        : "let-go"
      : step === "crossing"
        ? `crossing-${axis}`
        : (STEP[step] ?? step);
  const span = readings.spans[path === "composite.dead_zone_needed" ? "still" : name];
  return span ? { from: span.from_s, to: span.to_s, label: name } : null;
}
