import Button from "@mui/material/Button";
import Checkbox from "@mui/material/Checkbox";
import FormControlLabel from "@mui/material/FormControlLabel";
import TextField from "@mui/material/TextField";
import ToggleButton from "@mui/material/ToggleButton";
import ToggleButtonGroup from "@mui/material/ToggleButtonGroup";
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { Link, useNavigate, useSearchParams } from "react-router";
import { api, data, Problem, type Schemas } from "../api/client";
import { catalogueQuery, useChange } from "../api/queries";
import { moment, stickName } from "../app/format";
import { Page, Trouble } from "../app/parts";
import { useJobView } from "./JobMat";

type Kind = Schemas["WorkInfo"]["kind"];
type ModuleKind = "potentiometer" | "hall";

/** Put on record what was done. */
export function WorkPage() {
  const view = useJobView();
  const { job } = view;
  const navigate = useNavigate();
  const [search, setSearch] = useSearchParams();
  const { data: catalogue } = useQuery(catalogueQuery);
  const [module, setModule] = useState<ModuleKind | null>(null);
  const [lot, setLot] = useState("");
  const [note, setNote] = useState("");
  const [read, setRead] = useState(false);
  const info = catalogue?.work.find((w) => w.kind === search.get("kind"));
  const log = useChange((kind: Kind) =>
    data(
      api.POST("/api/jobs/{job_id}/work", {
        params: { path: { job_id: job.id } },
        body: {
          kind,
          module: kind === "replaced" ? module : null,
          lot: kind === "replaced" ? lot : "",
          note,
          cautions: read ? (info?.cautions.map((c) => c.code) ?? []) : [],
        },
      }),
    ),
  );
  if (job.controller.refer && !job.closed_at) {
    return (
      <Page title="It is not repaired here.">
        <p className="lead">
          Measure it if asked, and close the job under{" "}
          <Link to={`/jobs/${job.id}/hand-over`}>Hand over</Link> as referred.
        </p>
        <Done view={view} />
      </Page>
    );
  }
  if (job.closed_at) {
    return (
      <Page title="The job is closed.">
        <Done view={view} />
      </Page>
    );
  }
  const wrong = log.error instanceof Problem ? log.error.fields : {};
  const careful = (info?.cautions.length ?? 0) > 0;
  return (
    <Page title={`What was done to the ${stickName(job.stick)}?`}>
      <form
        className="form"
        onSubmit={(e) => {
          e.preventDefault();
          if (info) log.mutate(info.kind, { onSuccess: () => navigate(`/jobs/${job.id}/verify`) });
        }}
      >
        <ToggleButtonGroup
          exclusive
          value={info?.kind ?? null}
          onChange={(_, kind: Kind | null) => {
            setRead(false);
            setSearch(kind ? { kind } : {}, { replace: true });
          }}
          aria-label="What was done"
        >
          {catalogue?.work.map((w) => (
            <ToggleButton key={w.kind} value={w.kind}>
              {w.label}
            </ToggleButton>
          ))}
        </ToggleButtonGroup>
        {info?.kind === "replaced" && (
          <fieldset>
            <legend>What went in</legend>
            <ToggleButtonGroup
              exclusive
              value={module}
              onChange={(_, kind: ModuleKind | null) => kind && setModule(kind)}
              aria-label="What went in"
            >
              <ToggleButton value="potentiometer">Potentiometer</ToggleButton>
              <ToggleButton value="hall">Hall</ToggleButton>
            </ToggleButtonGroup>
            {wrong.module && <p className="hint over">{wrong.module}</p>}
            <TextField
              label="Lot, as on the bag"
              value={lot}
              onChange={(e) => setLot(e.target.value)}
              helperText="So that a bad delivery shows later."
            />
          </fieldset>
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
              !info ||
              log.isPending ||
              (careful && !read) ||
              (info.kind === "replaced" && module === null)
            }
          >
            Put on record
          </Button>
          <span className="soft">
            {!info ? "Choose what was done." : careful && !read ? "Tick the cautions first." : ""}
          </span>
        </p>
      </form>
      <Done view={view} />
    </Page>
  );
}

function Done({ view }: { view: Schemas["JobView"] }) {
  if (view.work.length === 0) return null;
  return (
    <section className="block">
      <h2>Done so far</h2>
      <ul className="rows">
        {view.work.map((w) => (
          <li key={w.id}>
            <span className="figures soft">{moment(w.done_at)}</span>
            <span>
              {w.kind === "replaced"
                ? `Module replaced, ${w.module === "hall" ? "Hall" : "potentiometer"}`
                : w.kind === "cleaned"
                  ? "Cleaned"
                  : "Recalibrated"}
              {w.lot && `, lot ${w.lot}`}
              {w.note && `. ${w.note}`}
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
