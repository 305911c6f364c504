import Button from "@mui/material/Button";
import TextField from "@mui/material/TextField";
import { useQuery } from "@tanstack/react-query";
import { useForm } from "react-hook-form";
import { api, data, type Schemas } from "../api/client";
import { catalogueQuery, useChange } from "../api/queries";
import { ofJob } from "../api/touched";
import { Trouble } from "../app/parts";
import { optionsOf, SelectField } from "../app/Select";

type Kind = Schemas["SheetStep"]["kind"];

interface Typed {
  kind: Kind;
  words: string;
  driver: string;
}

/** An id that no other step of a sheet has. */
export const newStepId = () => `s${Date.now().toString(36)}`;

/** Puts a step down that the sheet has not, done already. */
export function LearnStep({ jobId }: { jobId: number }) {
  const { data: catalogue } = useQuery(catalogueQuery);
  const { register, control, handleSubmit, watch, resetField } = useForm<Typed>({
    defaultValues: { kind: "fastener", words: "", driver: "" },
  });
  const screws = watch("kind") === "fastener";
  const learn = useChange(
    ({ kind, words, driver }: Typed) =>
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
      onSubmit={handleSubmit((typed) =>
        learn.mutate(typed, { onSuccess: () => resetField("words") }),
      )}
    >
      <SelectField
        name="kind"
        control={control}
        size="small"
        label="Not on the sheet"
        options={optionsOf<Kind>(catalogue?.step_kinds)}
      />
      <TextField size="small" label="What was done" {...register("words")} />
      {screws && <TextField size="small" label="Driver" {...register("driver")} />}
      <Button type="submit" size="small" disabled={!watch("words").trim() || learn.isPending}>
        Record it
      </Button>
      <Trouble error={learn.error} />
    </form>
  );
}
