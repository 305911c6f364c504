import Button from "@mui/material/Button";
import Checkbox from "@mui/material/Checkbox";
import FormControlLabel from "@mui/material/FormControlLabel";
import LinearProgress from "@mui/material/LinearProgress";
import { useMutation, useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { useNavigate, useSearchParams } from "react-router";
import { api, data, type Schemas } from "../api/client";
import type { Problem } from "../api/problem";
import { importsQuery, useChange } from "../api/queries";
import { ofJob } from "../api/touched";
import { stickName } from "../app/format";
import { Page, Trouble } from "../app/parts";
import { useJobView } from "../job/JobMat";
import { MappingForm } from "./MappingForm";
import { StepsForm } from "./StepsForm";
import "./capture.css";

type Preview = Schemas["Preview"];
type Mapping = Schemas["MappingSpec"];

function form(fields: Record<string, string | File>): FormData {
  const body = new FormData();
  for (const [name, value] of Object.entries(fields)) body.append(name, value);
  return body;
}

const PHASE: Record<Schemas["ImportView"]["phase"], string> = {
  waits: "Waits for another file",
  reads: "Reading the file",
  keeps: "Putting it on record",
  measures: "Measuring",
};

/** How far a file is on its way in, and the way to stop it. */
function Coming({ jobId }: { jobId: number }) {
  const { data: imports } = useQuery(importsQuery);
  const stop = useMutation<unknown, Problem, number>({
    mutationFn: (id) =>
      data(api.DELETE("/api/imports/{import_id}", { params: { path: { import_id: id } } })),
  });
  const coming = imports?.find((i) => i.job_id === jobId);
  const share = coming?.share ?? null;
  return (
    <div className="coming">
      <p role="status">
        {coming ? PHASE[coming.phase] : "Sending the file"}
        {share !== null && ` ${Math.round(100 * share)} %`}…
      </p>
      <LinearProgress
        aria-label="How far the file is"
        variant={share === null ? "indeterminate" : "determinate"}
        value={100 * (share ?? 0)}
      />
      {coming && coming.phase !== "measures" && (
        <Button onClick={() => stop.mutate(coming.id)} disabled={stop.isPending}>
          Stop
        </Button>
      )}
    </div>
  );
}

/** A take from a file: a recording file as it is, any other table by naming its columns. */
export function Component() {
  const { job } = useJobView();
  const [search] = useSearchParams();
  const stick = search.get("stick") ?? job.stick;
  const navigate = useNavigate();
  const [file, setFile] = useState<File | null>(null);
  const look = useMutation<Preview | null, Problem, File>({
    mutationFn: (chosen) =>
      data(
        api.POST("/api/recordings/preview", {
          body: { file: "" },
          bodySerializer: () => form({ file: chosen }),
        }),
      ),
  });
  const find = useMutation<Schemas["FoundSteps"], Problem, { chosen: File; mapping: Mapping }>({
    mutationFn: ({ chosen, mapping }) =>
      data(
        api.POST("/api/jobs/{job_id}/recordings/steps", {
          params: { path: { job_id: job.id } },
          body: { file: "", stick, mapping: "" },
          bodySerializer: () => form({ file: chosen, stick, mapping: JSON.stringify(mapping) }),
        }),
      ),
  });
  const [again, setAgain] = useState(false);
  const load = useChange(
    ({ chosen, mapping }: { chosen: File; mapping: Mapping | null }) =>
      data(
        api.POST("/api/jobs/{job_id}/recordings", {
          params: { path: { job_id: job.id } },
          body: { file: "", stick, again },
          bodySerializer: () =>
            form({
              file: chosen,
              stick,
              ...(mapping ? { mapping: JSON.stringify(mapping) } : {}),
              ...(again ? { again: "yes" } : {}),
            }),
        }),
      ),
    ofJob(job.id),
  );
  const take = (mapping: Mapping | null) => {
    if (!file) return;
    load.mutate(
      { chosen: file, mapping },
      { onSuccess: (made) => navigate(`/jobs/${job.id}/takes/${made.id}`) },
    );
  };
  const choose = (chosen: File | undefined) => {
    if (!chosen) return;
    setFile(chosen);
    setAgain(false);
    load.reset();
    find.reset();
    look.mutate(chosen);
  };
  const mapped = (mapping: Mapping) => {
    if (file && mapping.whole_step === "routine") find.mutate({ chosen: file, mapping });
    else take(mapping);
  };
  return (
    <Page title={`A recording of the ${stickName(stick)} from a file`}>
      <div className={find.data ? "" : "form"}>
        <p>
          <label className="file-choice">
            <input
              type="file"
              accept=".csv,.txt,.tsv,text/csv,text/plain"
              onChange={(e) => choose(e.target.files?.[0])}
            />
            <span>{file ? file.name : "Choose a CSV file"}</span>
          </label>
        </p>
        {!file && (
          <p className="soft">
            A recording of Hollow Pin’s own, or any table with a row a sample. Its columns are named
            and its steps are looked for before anything comes in; nothing of it is lost.
          </p>
        )}
        <Trouble error={look.error} />
        {look.isPending && <p role="status">Looking into the file…</p>}
        {look.data === null && file && (
          <p>This is a recording file: it says itself what its columns are.</p>
        )}
        {look.data && (
          <div hidden={find.data !== undefined}>
            <MappingForm
              key={file?.name}
              preview={look.data}
              submit={mapped}
              busy={load.isPending || find.isPending}
            />
          </div>
        )}
        {find.isPending && <p role="status">Looking for its steps…</p>}
        <Trouble error={find.error} />
        {find.data && (
          <>
            <StepsForm
              found={find.data}
              busy={load.isPending}
              submit={(spans) => take({ ...find.variables.mapping, spans })}
            />
            <p>
              <button type="button" className="plain link" onClick={() => find.reset()}>
                Back to the columns
              </button>
            </p>
          </>
        )}
        {load.isPending && <Coming jobId={job.id} />}
        <Trouble error={load.error} />
        {load.error?.title === "Here already" && (
          <FormControlLabel
            control={<Checkbox checked={again} onChange={(_, on) => setAgain(on)} />}
            label="Bring it in once more all the same"
          />
        )}
        {look.data === null && file && (
          <p className="actions">
            <Button variant="contained" onClick={() => take(null)} disabled={load.isPending}>
              Read it
            </Button>
          </p>
        )}
      </div>
    </Page>
  );
}
