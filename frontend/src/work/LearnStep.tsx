import Button from "@mui/material/Button";
import TextField from "@mui/material/TextField";
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { api, data, type Schemas } from "../api/client";
import { catalogueQuery, useChange } from "../api/queries";
import { ofJob } from "../api/touched";
import { Trouble } from "../app/parts";
import { optionsOf, Select } from "../app/Select";

type Kind = Schemas["SheetStep"]["kind"];

/** An id that no other step of a sheet has. */
export const newStepId = () => `s${Date.now().toString(36)}`;

/** Puts a step down that the sheet has not, done already. */
export function LearnStep({ jobId }: { jobId: number }) {
  const { data: catalogue } = useQuery(catalogueQuery);
  const [kind, setKind] = useState<Kind>("fastener");
  const [words, setWords] = useState("");
  const [driver, setDriver] = useState("");
  const learn = useChange(
    () =>
      data(
        api.POST("/api/jobs/{job_id}/opening/steps", {
          params: { path: { job_id: jobId } },
          body: {
            id: newStepId(),
            kind,
            words,
            driver: kind === "fastener" ? driver : "",
            marks: [],
            minutes: 0,
            warning: "",
            back: "",
            photo: "",
          },
        }),
      ),
    ofJob(jobId),
  );
  return (
    <form
      className="inline-form"
      aria-label="A step that is not on the sheet"
      onSubmit={(e) => {
        e.preventDefault();
        learn.mutate(undefined, { onSuccess: () => setWords("") });
      }}
    >
      <Select
        size="small"
        label="Not on the sheet"
        value={kind}
        options={optionsOf<Kind>(catalogue?.step_kinds)}
        onChange={setKind}
      />
      <TextField
        size="small"
        label="What was done"
        value={words}
        onChange={(e) => setWords(e.target.value)}
      />
      {kind === "fastener" && (
        <TextField
          size="small"
          label="Driver"
          value={driver}
          onChange={(e) => setDriver(e.target.value)}
        />
      )}
      <Button type="submit" size="small" disabled={!words.trim() || learn.isPending}>
        Put it down
      </Button>
      <Trouble error={learn.error} />
    </form>
  );
}
