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
import { useTurnOver } from "../plots/TurnOver";

export interface Side {
  view: Schemas["TakeView"];
  samples: Samples | undefined;
  role: Role;
  label: string;
}

/** Two takes on the same axes in the same place. */
export function PairPlots({ before, after, limit }: { before: Side; after: Side; limit: number }) {
  const sides = [before, after];
  const along = sides.some(({ view: { readings: r } }) => r?.crossing || r?.turn || r?.hold);
  const around = sides.some(({ view }) => view.readings?.let_go || view.readings?.rim);
  const { group, turnOver } = useTurnOver({
    ...(around || !along ? { rest: true } : {}),
    ...(along ? { track: true } : {}),
  });
  return (
    <>
      {turnOver}
      {group === "rest" ? <Around sides={sides} limit={limit} /> : <Along sides={sides} />}
    </>
  );
}

function axesOf({ view }: Side): number {
  return view.readings?.recording.axes.length ?? 2;
}

function Around({ sides, limit }: { sides: Side[]; limit: number }) {
  const rests = sides.map(({ view, samples, role, label }) => {
    const span = view.readings?.spans.still;
    const rest = samples && span ? between(samples, span.from_s, span.to_s) : { x: [], y: [] };
    return { role, label, ...rest, deadZone: view.readings?.composite.dead_zone_needed ?? null };
  });
  const returns = sides.map(({ view, role, label }) => ({
    role,
    label,
    release: view.readings?.let_go?.release ?? [],
  }));
  const rims = sides.flatMap(({ view, role, label }) =>
    view.readings?.rim ? [{ role, label, radius: view.readings.rim.radius }] : [],
  );
  return (
    <div className="plots">
      {sides.some((s) => axesOf(s) === 1) ? (
        <AlongAxis rests={rests} returns={returns} limit={limit} />
      ) : (
        <>
          <RestCloud rests={rests} limit={limit} />
          <ReturnRose returns={returns} limit={limit} />
        </>
      )}
      {rims.length > 0 && <RimUnrolled rims={rims} gate={sides[0]?.view.take.gate ?? "round"} />}
    </div>
  );
}

function Along({ sides }: { sides: Side[] }) {
  const tracks = sides
    .flatMap(({ view, role, label }) => tracksOf(view.readings, role, label))
    .sort((a, b) => a.label.slice(-1).localeCompare(b.label.slice(-1)));
  const strips = sides.flatMap((side) => {
    const { view, samples, role, label } = side;
    const holds = view.readings?.hold;
    return holds ? [{ role, label, axes: axesOf(side), holds: [...holds], samples }] : [];
  });
  const ladders = sides.flatMap(({ view, role, label }) => ladderOf(view.readings, role, label));
  return (
    <div className="plots">
      {tracks.length > 0 && <TrackMap tracks={tracks} />}
      {strips.length > 0 && <HoldStrips held={strips} />}
      {ladders.length > 0 && <NoiseLadder ladders={ladders} />}
    </div>
  );
}
