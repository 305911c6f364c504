import Button from "@mui/material/Button";
import { useEffect, useRef } from "react";
import { Link, useNavigate, useSearchParams } from "react-router";
import { decimal, stickName } from "../app/format";
import { type Key, useKeys } from "../app/keys";
import { Page } from "../app/parts";
import { useJobView } from "../job/JobMat";
import "./centring.css";
import { Target } from "./Target";
import { type CentringView, type Now, useCentring } from "./useCentring";

const AXES = [
  ["x", "left–right"],
  ["y", "up–down"],
] as const;
const ALONG = [["x", "off its middle"]] as const;
/** A press of an arrow key turns a stand-in's trim by as much of its whole turn; with Shift a fifth. */
const TURN = 0.04;
const PUSH = 118;

/** Centring by hand, to be read from two metres with a screwdriver in it. */
export function Component() {
  const { job } = useJobView();
  const [search] = useSearchParams();
  const kind = search.get("kind") ?? "trimmed";
  const view = useCentring(job.id, kind, Number(search.get("pad") ?? 0));
  const { begun, now, ended } = view;
  const stand = begun?.source_kind === "stand-in" && !ended;
  useLetGo(view.say, stand);
  const finish = () => view.say({ do: "finish" });
  useKeys(
    [
      {
        key: "space",
        shown: "Space",
        does: now?.space ?? "",
        run: () => view.say({ do: "take" }),
        when: !ended && !!now?.space,
      },
      { key: "esc", shown: "Esc", does: "finish", run: finish, when: !ended },
      ...(stand ? standInKeys(view.say, begun.axes) : []),
    ],
    !ended,
  );
  if (ended) return <Over jobId={job.id} kind={kind} view={view} />;
  if (!now || !begun) {
    return (
      <Page title="The source is being opened.">
        <p className="lead">It is watched by what the newest take was made with.</p>
      </Page>
    );
  }
  const single = begun.axes === 1;
  const ways = single ? ALONG : AXES;
  return (
    <section className="page centring">
      <h1 className="centring-says" aria-live="polite">
        {now.says}
      </h1>
      <div className="centring-main">
        <Target now={now} single={single} />
        <div className="centring-numbers">
          {ways.map(([axis, way]) => (
            <Readout key={axis} now={now} axis={axis} way={way} />
          ))}
          <Returns now={now} />
        </div>
      </div>
      <Reach now={now} />
      {now.note && <p className="remark">{now.note}</p>}
      {view.trouble && <p className="soft">{view.trouble}</p>}
      <p className="actions">
        <Button variant={now.state === "done" ? "contained" : "outlined"} onClick={finish}>
          Finish <kbd>Esc</kbd>
        </Button>
        <span className="soft">
          {stickName(begun.stick)}, watched by {begun.source_name}, as take {begun.take_id}. Within{" "}
          {decimal(Math.max(...now.within), 2)} % is as near as this bench can see.
        </span>
      </p>
    </section>
  );
}

const TURNS: Record<string, ["x" | "y", number]> = {
  left: ["x", -TURN],
  right: ["x", TURN],
  down: ["y", -TURN],
  up: ["y", TURN],
};
const withShift = (names: string[]) => [...names, ...names.map((n) => `shift+${n}`)].join(",");

/** Arrow keys turn a stand-in's trims, with Shift a fifth as far; P pushes its stick. */
function standInKeys(say: CentringView["say"], axes: number): Key[] {
  const turn = (pressed: string) => {
    const [axis, by] = TURNS[pressed.replace("shift+", "")] ?? ["x", 0];
    say({ do: "turn", axis, by: pressed.startsWith("shift+") ? by / 5 : by });
  };
  const push = () => {
    const a = axes > 1 ? Math.random() * 2 * Math.PI : Math.PI / 2;
    say({ do: "steer", x: PUSH * Math.sin(a), y: PUSH * Math.cos(a) });
  };
  const does = axes > 1 ? "turn left–right" : "turn";
  const keys: Key[] = [
    { key: withShift(["left", "right"]), shown: "← →", does, run: turn },
    { key: withShift(["down", "up"]), shown: "↓ ↑", does: "turn up–down", run: turn },
    { key: "p", shown: "P", does: "push, let go", run: push },
  ];
  return keys.filter((_, i) => axes > 1 || i !== 1);
}

/** A stand-in's stick is let go with the key that pushed it. */
function useLetGo(say: CentringView["say"], on: boolean): void {
  const latest = useRef(say);
  latest.current = say;
  useEffect(() => {
    if (!on) return;
    const up = (event: KeyboardEvent) => {
      if (event.key === "p") latest.current({ do: "steer" });
    };
    window.addEventListener("keyup", up);
    return () => window.removeEventListener("keyup", up);
  }, [on]);
}

const signed = (value: number) => `${value < 0 ? "−" : "+"}${decimal(Math.abs(value))}`;

/** What is left on an axis: the live number while it is turned, the reading once it was read. */
function Readout({ now, axis, way }: { now: Now; axis: "x" | "y"; way: string }) {
  const i = axis === "x" ? 0 : 1;
  const turns = now.turns[axis] ?? 0;
  return (
    <div className={`readout ${now.next_axis === axis ? "next" : ""} ${now.reads ? "" : "unsure"}`}>
      <span className="readout-way">
        {now.next_axis === axis && <span aria-hidden>▸ </span>}
        {way}
      </span>
      <span className="figures readout-value">{signed(now.shown[i])}</span>
      <span className="soft readout-turns">
        {now.near[i] ? "near enough" : "%"}
        {turns > 0 && ` · turned ${turns}×`}
      </span>
    </div>
  );
}

const CONFIRMS = [1, 2, 3];

function Returns({ now }: { now: Now }) {
  const back = now.state === "done" ? CONFIRMS.length : now.returns;
  return (
    <p className="centring-returns">
      <svg viewBox="0 0 84 24" role="img" aria-label={`${back} of 3 releases came back there`}>
        {CONFIRMS.map((n) => (
          <rect
            key={n}
            x={4 + 28 * (n - 1)}
            y={4}
            width={16}
            height={16}
            className={n <= back ? "back" : ""}
          />
        ))}
      </svg>
      <span className="soft">releases that came back there</span>
    </p>
  );
}

/** What it reaches on every side, and what that costs so far. */
function Reach({ now }: { now: Now }) {
  return (
    <table className="centring-reach">
      <caption>
        Reach, %: before, now, what it costs. Push it over to one side to measure it.
      </caption>
      <thead>
        <tr>
          <th scope="col" />
          {now.reach.map((r) => (
            <th key={r.side} scope="col">
              {r.side}
            </th>
          ))}
        </tr>
      </thead>
      <tbody>
        <tr>
          <th scope="row">before</th>
          {now.reach.map((r) => (
            <td key={r.side}>{r.before === null ? "not measured" : decimal(r.before)}</td>
          ))}
        </tr>
        <tr>
          <th scope="row">now</th>
          {now.reach.map((r) => (
            <td key={r.side}>
              {r.now === null
                ? "not since"
                : `${decimal(r.now)}${r.before === null ? "" : ` (${signed(r.now - r.before)})`}`}
            </td>
          ))}
        </tr>
      </tbody>
    </table>
  );
}

/** What was read, and where it goes on. */
function Over({ jobId, kind, view }: { jobId: number; kind: string; view: CentringView }) {
  const navigate = useNavigate();
  const { begun, ended, now } = view;
  const centringId = ended?.centringId ?? null;
  const to = `/jobs/${jobId}/work?${new URLSearchParams({ kind, ...(centringId ? { centring: String(centringId) } : {}) })}`;
  useKeys([
    {
      key: "space",
      shown: "Space",
      does: "put on record",
      run: () => navigate(to),
      when: !!centringId,
    },
  ]);
  const done = now?.state === "done";
  if (!begun) {
    return (
      <Page title="It cannot be watched.">
        <p className="lead">{ended?.because}</p>
        <p className="actions">
          <Button variant="contained" component={Link} to={`/jobs/${jobId}/prove`}>
            Measure it
          </Button>
          <Button component={Link} to={`/jobs/${jobId}/work?kind=${kind}`}>
            Back to the work
          </Button>
        </p>
      </Page>
    );
  }
  return (
    <Page title={done ? "It is centred." : "It is not confirmed to be centred."}>
      {ended?.because && <p className="lead">{ended.because}</p>}
      {centringId === null ? (
        <p>
          Nothing was read. Push it to the edge and let it go, twice, before anything is turned.
        </p>
      ) : (
        <p>What was read is kept. It goes on record with the work.</p>
      )}
      <p className="actions">
        {centringId !== null && (
          <Button variant="contained" component={Link} to={to}>
            Put on record <kbd>Space</kbd>
          </Button>
        )}
        <Button onClick={() => window.location.reload()}>Once more</Button>
      </p>
    </Page>
  );
}
