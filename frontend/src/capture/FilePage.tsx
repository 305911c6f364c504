import Button from "@mui/material/Button";
import MenuItem from "@mui/material/MenuItem";
import TextField from "@mui/material/TextField";
import { useMutation } from "@tanstack/react-query";
import { useState } from "react";
import { useNavigate, useSearchParams } from "react-router";
import { api, data, type Problem, type Schemas } from "../api/client";
import { useChange } from "../api/queries";
import { stickName } from "../app/format";
import { Page, Trouble } from "../app/parts";
import { useJobView } from "../job/JobMat";
import { NumbersTable } from "../plots/parts";

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

function MappingForm({
  preview,
  submit,
  busy,
}: {
  preview: Preview;
  submit: (mapping: Mapping) => void;
  busy: boolean;
}) {
  const [m, setM] = useState({
    time: preview.time ?? "",
    time_unit: (preview.time?.endsWith("us") ? "us" : preview.time?.endsWith("ms") ? "ms" : "s") as
      | "s"
      | "ms"
      | "us",
    x: preview.x ?? "",
    y: preview.y ?? "",
    step: preview.step ?? "",
    whole_step: "",
    lo: "0",
    hi: "1023",
    y_positive: "up" as "up" | "down",
  });
  const pick = (name: keyof typeof m, label: string, options: [string, string][]) => (
    <TextField
      select
      label={label}
      value={m[name]}
      onChange={(e) => setM({ ...m, [name]: e.target.value })}
      slotProps={{ select: { displayEmpty: true }, inputLabel: { shrink: true } }}
    >
      {options.map(([value, text]) => (
        <MenuItem key={value} value={value}>
          {text}
        </MenuItem>
      ))}
    </TextField>
  );
  const columns = preview.columns.map((c): [string, string] => [c, c]);
  const range: [number, number] = [Number(m.lo), Number(m.hi)];
  const ready = m.time && m.x && m.lo.trim() && m.hi.trim() && range.every(Number.isFinite);
  return (
    <>
      <NumbersTable
        caption="The first rows of the file"
        head={preview.columns}
        rows={preview.rows}
      />
      <div className="pair">
        {pick("time", "Time is", columns)}
        {pick("time_unit", "in", [
          ["s", "seconds"],
          ["ms", "milliseconds"],
          ["us", "microseconds"],
        ])}
      </div>
      <div className="pair">
        {pick("x", "x, positive to the right, is", columns)}
        {pick("y", "y is", [["", "not there: a single axis"], ...columns])}
        {pick("y_positive", "y grows", [
          ["up", "upward"],
          ["down", "downward"],
        ])}
      </div>
      <div className="pair">
        <TextField
          label="Lowest value the device gives"
          value={m.lo}
          onChange={(e) => setM({ ...m, lo: e.target.value })}
        />
        <TextField
          label="Highest value"
          value={m.hi}
          onChange={(e) => setM({ ...m, hi: e.target.value })}
        />
      </div>
      <div className="pair">
        {pick("step", "Steps are named in", [["", "no column"], ...columns])}
        {!m.step &&
          pick("whole_step", "All of it is", [
            ["", "no step: keep it, measure nothing"],
            ["still", "Still"],
            ["let-go", "Let-go"],
            ["rim", "Rim"],
          ])}
      </div>
      <p className="actions">
        <Button
          variant="contained"
          disabled={!ready || busy}
          onClick={() =>
            submit({
              delimiter: preview.delimiter as Mapping["delimiter"],
              time: m.time,
              time_unit: m.time_unit,
              x: m.x,
              y: m.y || null,
              range_x: range,
              range_y: m.y ? range : null,
              y_positive: m.y_positive,
              step: m.step || null,
              whole_step: (m.step ? null : m.whole_step || null) as Mapping["whole_step"],
            })
          }
        >
          Read it
        </Button>
      </p>
    </>
  );
}
