import Button from "@mui/material/Button";
import { useMutation } from "@tanstack/react-query";
import { useState } from "react";
import { useNavigate, useSearchParams } from "react-router";
import { api, data, type Problem, type Schemas } from "../api/client";
import { useChange } from "../api/queries";
import { stickName } from "../app/format";
import { Page, Trouble } from "../app/parts";
import { useJobView } from "../job/JobMat";
import { MappingForm } from "./MappingForm";

type Preview = Schemas["Preview"];
type Mapping = Schemas["MappingSpec"];

function form(fields: Record<string, string | File>): FormData {
  const body = new FormData();
  for (const [name, value] of Object.entries(fields)) body.append(name, value);
  return body;
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
  const load = useChange(({ chosen, mapping }: { chosen: File; mapping: Mapping | null }) =>
    data(
      api.POST("/api/jobs/{job_id}/recordings", {
        params: { path: { job_id: job.id } },
        body: { file: "", stick },
        bodySerializer: () =>
          form({ file: chosen, stick, ...(mapping ? { mapping: JSON.stringify(mapping) } : {}) }),
      }),
    ),
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
    load.reset();
    look.mutate(chosen);
  };
  return (
    <Page title={`A recording of the ${stickName(stick)} from a file`}>
      <div className="form">
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
        <Trouble error={look.error} />
        {look.isPending && <p role="status">Looking into the file…</p>}
        {look.data === null && file && (
          <p>This is a recording file: it says itself what its columns are.</p>
        )}
        {look.data && (
          <MappingForm key={file?.name} preview={look.data} submit={take} busy={load.isPending} />
        )}
        <Trouble error={load.error} />
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
