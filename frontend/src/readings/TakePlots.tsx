import { useMemo } from "react";
import type { Schemas } from "../api/client";
import { between, type Samples } from "../api/samples";
import { AlongAxis } from "../plots/AlongAxis";
import { HoldStrips } from "../plots/HoldStrips";
import { ladderOf, NoiseLadder } from "../plots/NoiseLadder";
import { RestCloud } from "../plots/RestCloud";
import { ReturnRose } from "../plots/ReturnRose";
import { RimUnrolled } from "../plots/RimUnrolled";
import type { Role } from "../plots/stage";
import { TrackMap, tracksOf } from "../plots/TrackMap";
import type { Group } from "../plots/TurnOver";
import type { Band } from "../plots/uplot";

/** The curves behind a take's numbers. */
export function TakePlots({
  view,
  readings,
  samples,
  role,
  group,
  focus,
}: {
  view: Schemas["TakeView"];
  readings: Schemas["TakeReadings"];
  samples: Samples | undefined;
  role: Role;
  group: Group;
  focus: (band: Band) => void;
}) {
  const label = `Take ${view.take.id}`;
  const limit = view.limits["composite.dead_zone_needed"]?.limit ?? 8;
  const still = readings.spans.still;
  const rest = useMemo(() => {
    if (samples && still) return between(samples, still.from_s, still.to_s);
    const at = readings.still;
    return at ? { x: [at.rest_x], y: [at.rest_y ?? 0] } : { x: [], y: [] };
  }, [samples, still, readings.still]);
  const tracks = tracksOf(readings, role);
  const ladders = ladderOf(readings, role, label);
  const axes = readings.recording.axes.length;
  const rests = [{ role, label, ...rest, deadZone: readings.composite.dead_zone_needed }];
  const returns = [{ role, label, release: readings.let_go?.release ?? [] }];
  const chooseRelease = (r: Schemas["Release"]) =>
    focus({ from: r.t_s, to: r.end_s, label: "one release" });
  const around = !!(readings.let_go || readings.rim);
  if (group === "track" || (!around && (tracks.length > 0 || readings.hold))) {
    return (
      <div className="plots">
        {tracks.length > 0 && <TrackMap tracks={tracks} />}
        {readings.hold && (
          <HoldStrips
            held={[{ role, label, axes, holds: [...readings.hold], samples }]}
            choose={(h) => focus({ from: h.t_s, to: h.end_s, label: "one hold" })}
          />
        )}
        {ladders.length > 0 && <NoiseLadder ladders={ladders} />}
      </div>
    );
  }
  return (
    <div className="plots">
      {axes === 1 && (readings.still || readings.let_go) && (
        <AlongAxis limit={limit} rests={rests} returns={returns} choose={chooseRelease} />
      )}
      {axes === 2 && readings.still && <RestCloud limit={limit} rests={rests} />}
      {axes === 2 && readings.let_go && (
        <ReturnRose limit={limit} returns={returns} choose={chooseRelease} />
      )}
      {readings.rim && (
        <RimUnrolled gate={view.take.gate} rims={[{ role, label, radius: readings.rim.radius }]} />
      )}
      {!around && ladders.length > 0 && <NoiseLadder ladders={ladders} />}
    </div>
  );
}
