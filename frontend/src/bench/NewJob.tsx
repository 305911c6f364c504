import Button from "@mui/material/Button";
import TextField from "@mui/material/TextField";
import ToggleButton from "@mui/material/ToggleButton";
import ToggleButtonGroup from "@mui/material/ToggleButtonGroup";
import { useQuery } from "@tanstack/react-query";
import { Controller, useForm } from "react-hook-form";
import { useNavigate } from "react-router";
import { api, data, Problem } from "../api/client";
import { controllerQuery, modelsQuery, useChange } from "../api/queries";
import { capital, stickName } from "../app/format";
import { Page, Trouble } from "../app/parts";

interface Fields {
  tag: string;
  model_id: string;
  stick: string;
  complaint: string;
}

/** Take a controller in. */
export function NewJob() {
  const navigate = useNavigate();
  const { data: models } = useQuery(modelsQuery);
  const { register, control, handleSubmit, watch, setValue } = useForm<Fields>({
    defaultValues: { tag: "", model_id: "", stick: "", complaint: "" },
  });
  const tag = watch("tag").trim();
  const { data: known } = useQuery(controllerQuery(tag));
  const model = known?.model ?? models?.find((m) => m.id === watch("model_id"));
  const sticks = model?.sticks.map((s) => s.name) ?? [];
  const stick = sticks.includes(watch("stick")) ? watch("stick") : (sticks[0] ?? "");
  const open = useChange(({ model_id, ...fields }: Fields) =>
    data(
      api.POST("/api/jobs", {
        body: { ...fields, tag, stick, model_id: known ? null : model_id || null },
      }),
    ),
  );
  const wrong = open.error instanceof Problem ? open.error.fields : {};
  const submit = handleSubmit((fields) =>
    open.mutate(fields, { onSuccess: (view) => navigate(`/jobs/${view.job.id}/prove`) }),
  );
  return (
    <Page title="Take a controller in.">
      <form className="form" onSubmit={submit} noValidate>
        <TextField
          label="Tag"
          autoFocus
          autoComplete="off"
          error={"tag" in wrong}
          helperText={
            wrong.tag ??
            (known ? `Known here: a ${known.model.name}.` : "As on its label, such as GS-061.")
          }
          {...register("tag")}
        />
        {!known && (
          <fieldset>
            <legend>Model</legend>
            <Controller
              name="model_id"
              control={control}
              render={({ field }) => (
                <ToggleButtonGroup
                  exclusive
                  value={field.value}
                  onChange={(_, id: string | null) => {
                    field.onChange(id ?? "");
                    setValue("stick", "");
                  }}
                  aria-label="Model"
                >
                  {models?.map((m) => (
                    <ToggleButton key={m.id} value={m.id}>
                      {m.name}
                    </ToggleButton>
                  ))}
                </ToggleButtonGroup>
              )}
            />
            <p className={`hint ${wrong.model_id ? "over" : "soft"}`}>
              {wrong.model_id ?? model?.note ?? "What kind of controller it is."}
            </p>
          </fieldset>
        )}
        {sticks.length > 1 && (
          <fieldset>
            <legend>Which stick</legend>
            <Controller
              name="stick"
              control={control}
              render={({ field }) => (
                <ToggleButtonGroup
                  exclusive
                  value={stick}
                  onChange={(_, name: string | null) => name && field.onChange(name)}
                  aria-label="Which stick"
                >
                  {sticks.map((s) => (
                    <ToggleButton key={s} value={s}>
                      {capital(stickName(s))}
                    </ToggleButton>
                  ))}
                </ToggleButtonGroup>
              )}
            />
          </fieldset>
        )}
        <TextField
          label="Complaint, in the owner’s words"
          multiline
          minRows={2}
          maxRows={6}
          error={"complaint" in wrong}
          helperText={wrong.complaint ?? "Which way, since when, does a flick clear it."}
          {...register("complaint")}
        />
        <Trouble error={Object.keys(wrong).length ? null : open.error} />
        <p className="actions">
          <Button type="submit" variant="contained" disabled={!tag || !model || open.isPending}>
            Take in
          </Button>
          <span className="soft">
            {!tag ? "A tag and a model are all it takes." : !model ? "Choose the model." : ""}
          </span>
        </p>
      </form>
    </Page>
  );
}
