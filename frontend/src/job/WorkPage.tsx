import Button from "@mui/material/Button";
import Checkbox from "@mui/material/Checkbox";
import FormControlLabel from "@mui/material/FormControlLabel";
import TextField from "@mui/material/TextField";
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { Link, useNavigate, useSearchParams } from "react-router";
import { api, data, type Schemas } from "../api/client";
import { Problem } from "../api/problem";
import { catalogueQuery, centringQuery, openingQuery, useChange } from "../api/queries";
import { ofJobAndShelf } from "../api/touched";
import { Choose } from "../app/Choose";
import { capital, moment, stickName } from "../app/format";
import { Page, Trouble, Words } from "../app/parts";
import { PickDonor } from "../parts/Donors";
import { PickPart } from "../parts/PickPart";
import { JobTimers } from "../work/JobTimers";
import { Passes } from "../work/Passes";
import { Templates } from "../work/Templates";
import { WorkClock } from "../work/WorkClock";
import { sent, type Typed, WorkFields } from "../work/WorkFields";
import { WorkNav } from "../work/WorkNav";
import { useJobView } from "./JobMat";

type NewWork = Schemas["NewWork"];
type ModuleKind = NonNullable<NewWork["module"]>;
type OneAxis = NonNullable<NewWork["axis"]>;

const MODULES: [ModuleKind, string][] = [
  ["potentiometer", "Potentiometer"],
  ["hall", "Hall"],
];
const AXES: [OneAxis, string][] = [
  ["", "Both"],
  ["x", "x, left–right"],
  ["y", "y, up–down"],
];

/** Put on record what was done. */
export function WorkPage() {
  const view = useJobView();
  const { job } = view;
  if (job.controller.refer && !job.closed_at) {
    return (
      <Page title="It is not repaired here.">
        <p className="lead">
          Measure it if asked, and close the job under{" "}
          <Link to={`/jobs/${job.id}/hand-over`}>Hand over</Link> as referred.
        </p>
        <DoneSoFar view={view} />
      </Page>
    );
  }
  if (job.closed_at) {
    return (
      <Page title="The job is closed.">
        <DoneSoFar view={view} />
      </Page>
    );
  }
  return <LogWork view={view} />;
}

function LogWork({ view }: { view: Schemas["JobView"] }) {
  const { job } = view;
  const navigate = useNavigate();
  const [search, setSearch] = useSearchParams();
  const { data: catalogue } = useQuery(catalogueQuery);
  const { data: shell } = useQuery(openingQuery(job.id));
  const sticks = job.controller.model.sticks;
  const [stick, setStick] = useState(search.get("stick") ?? job.stick);
  const [axis, setAxis] = useState<OneAxis>(view.planned?.axis ?? "");
  const [typed, setTyped] = useState<Typed>({});
  const [wait, setWait] = useState(true);
  const [module, setModule] = useState<ModuleKind | null>(null);
  const [lot, setLot] = useState("");
  const [part, setPart] = useState<number | null>(null);
  const [note, setNote] = useState("");
  const [read, setRead] = useState(false);
  const [all, setAll] = useState(!search.has("kind") && !view.planned);
  const work = catalogue?.remedies.filter((r) => r.is_work) ?? [];
  const info = work.find((r) => r.remedy.code === (search.get("kind") ?? view.planned?.kind));
  const details = sent(info?.fields ?? [], typed);
  const waits = info?.remedy.waits ?? null;
  const usesThings = info?.fields.some((f) => f.code !== "minutes") ?? false;
  const lastTime = view.work.findLast((w) => w.kind === info?.remedy.code)?.details;
  const asks = (what: "module" | "lot" | "axis") => info?.remedy.asks.includes(what) ?? false;
  const axes = sticks.find((s) => s.name === stick)?.axes ?? 2;
  const log = useChange(
    (kind: NewWork["kind"]) =>
      data(
        api.POST("/api/jobs/{job_id}/work", {
          params: { path: { job_id: job.id } },
          body: {
            stick,
            kind,
            axis: asks("axis") && axes === 2 ? axis : "",
            module: asks("module") ? module : null,
            lot: asks("lot") ? lot : "",
            note,
            cautions: read ? (info?.cautions.map((c) => c.code) ?? []) : [],
            part_id: part,
            details,
            wait_minutes: waits && wait ? waits.minutes : null,
            centring_id: Number(search.get("centring") ?? 0) || null,
          },
        }),
      ),
    ofJobAndShelf(job.id),
  );
  const wrong = log.error instanceof Problem ? log.error.fields : {};
  const careful = (info?.cautions.length ?? 0) > 0;
  return (
    <Page title={`What was done to the ${stickName(stick)}?`}>
      <WorkNav jobId={job.id} />
      <form
        className="form"
        onSubmit={(e) => {
          e.preventDefault();
          if (!info) return;
          log.mutate(info.remedy.code as NewWork["kind"], {
            onSuccess: () => navigate(`/jobs/${job.id}/${shell?.opening ? "shut" : "verify"}`),
          });
        }}
      >
        {sticks.length > 1 && (
          <Choose
            label="Which stick"
            options={sticks.map((s) => [s.name, capital(stickName(s.name))] as const)}
            value={stick}
            onChange={(name) => {
              setStick(name);
              setPart(null);
            }}
          />
        )}
        {info && !all ? (
          <div className="work-done">
            <p>
              <strong>{info.remedy.done}.</strong>{" "}
              <button type="button" className="plain link" onClick={() => setAll(true)}>
                Something else was done
              </button>
            </p>
            {info.remedy.schools && <p className="hint soft">{info.remedy.schools}</p>}
          </div>
        ) : (
          <Choose
            label="What was done"
            options={work.map((r) => [r.remedy.code, r.remedy.done] as const)}
            value={info?.remedy.code ?? null}
            onChange={(kind) => {
              setRead(false);
              setPart(null);
              setSearch({ kind }, { replace: true });
            }}
            {...(info?.remedy.schools ? { hint: info.remedy.schools } : {})}
          />
        )}
        {info?.remedy.calibration && (
          <p>
            <Link to={`/jobs/${job.id}/calibration`}>What a calibration would hold</Link>
            <span className="soft">
              {" "}
              Extents first, then centre; with what it would then read, and what became of the last.
            </span>
          </p>
        )}
        {info?.remedy.by_hand && <Centred jobId={job.id} kind={info.remedy.code} search={search} />}
        {asks("axis") && axes === 2 && (
          <Choose label="Which sensor" options={AXES} value={axis} onChange={setAxis} />
        )}
        {asks("module") && (
          <Choose
            label="What went in"
            options={MODULES}
            value={module}
            onChange={setModule}
            {...(wrong.module ? { hint: wrong.module } : {})}
          />
        )}
        {info?.remedy.code === "donor" && <PickDonor jobId={job.id} lot={lot} choose={setLot} />}
        {info && (
          <PickPart
            key={`${info.remedy.code} ${stick}`}
            jobId={job.id}
            remedy={info.remedy.code}
            stick={stick}
            chosen={part}
            choose={(found) => {
              setPart(found?.id ?? null);
              if (found?.facts.sensor) setModule(found.facts.sensor);
            }}
          />
        )}
        {asks("lot") && (
          <TextField
            label="Lot, as on the bag"
            value={lot}
            onChange={(e) => setLot(e.target.value)}
            helperText="So that a bad delivery shows later."
          />
        )}
        {careful && (
          <section className="cautions" aria-label="Cautions">
            <div className="before">
              <h2>Before you begin</h2>
              <p className="soft">
                The usual cautions. Local rules and licensed people come first.
              </p>
            </div>
            <ul>
              {info?.cautions.map((c) => (
                <li key={c.code}>{c.text}</li>
              ))}
            </ul>
            <FormControlLabel
              control={<Checkbox checked={read} onChange={(e) => setRead(e.target.checked)} />}
              label="Read and kept to"
            />
          </section>
        )}
        {info && (
          <fieldset>
            <legend>{usesThings ? "What was used, and how" : "How long it took"}</legend>
            {usesThings && (
              <Templates
                kind={info.remedy.code as NewWork["kind"]}
                details={details}
                use={(kept) => setTyped({ ...typed, ...kept })}
                {...(lastTime && { lastTime })}
              />
            )}
            <WorkClock view={view} use={(m) => setTyped({ ...typed, minutes: String(m) })} />
            <WorkFields
              fields={info.fields}
              typed={typed}
              change={(code, value) => setTyped({ ...typed, [code]: value })}
              wrong={wrong}
            />
          </fieldset>
        )}
        {waits && (
          <FormControlLabel
            control={<Checkbox checked={wait} onChange={(_, on) => setWait(on)} />}
            label={`Start a timer of ${waits.minutes} min: the shell waits for it`}
          />
        )}
        {info && (
          <TextField
            label="Note"
            multiline
            minRows={1}
            maxRows={5}
            value={note}
            onChange={(e) => setNote(e.target.value)}
          />
        )}
        <Trouble error={log.error} />
        <p className="actions">
          <Button
            type="submit"
            variant="contained"
            disabled={
              !info || log.isPending || (careful && !read) || (asks("module") && module === null)
            }
          >
            Put on record
          </Button>
          <span className="soft">
            {!info ? "Choose what was done." : careful && !read ? "Tick the cautions first." : ""}
          </span>
        </p>
      </form>
      <Passes jobId={job.id} />
      <DoneSoFar view={view} />
      <JobTimers view={view} />
    </Page>
  );
}

/** What was read while it was turned, or the way to watch it. */
function Centred({
  jobId,
  kind,
  search,
}: {
  jobId: number;
  kind: string;
  search: URLSearchParams;
}) {
  const centringId = Number(search.get("centring") ?? 0);
  const { data: centring } = useQuery({
    ...centringQuery(jobId, centringId),
    enabled: centringId > 0,
  });
  if (centring) return <p className="lead">{centring.words}</p>;
  return (
    <p>
      <Link to={`/jobs/${jobId}/centring?kind=${kind}`}>Watch the rest while you turn</Link>
      <span className="soft">
        {" "}
        It says which to turn, how far, and when to stop; what it reads goes on record here.
      </span>
    </p>
  );
}

function DoneSoFar({ view }: { view: Schemas["JobView"] }) {
  if (view.work.length === 0) return null;
  return (
    <section className="block">
      <h2>Done so far</h2>
      <ul className="rows">
        {view.work.map((w) => (
          <li key={w.id}>
            <span className="figures soft">{moment(w.done_at)}</span>
            <span>
              {w.words}, {stickName(w.stick)}
              {w.details_words && `. ${w.details_words}`}
              {w.note && (
                <>
                  . <Words text={w.note} />
                </>
              )}
            </span>
          </li>
        ))}
      </ul>
      <p>
        <Link to={`/jobs/${view.job.id}/verify`}>Measure again and compare</Link>
      </p>
    </section>
  );
}
