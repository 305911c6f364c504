import Button from "@mui/material/Button";
import Checkbox from "@mui/material/Checkbox";
import FormControlLabel from "@mui/material/FormControlLabel";
import MenuItem from "@mui/material/MenuItem";
import TextField from "@mui/material/TextField";
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { Controller, useForm } from "react-hook-form";
import { Link, useNavigate } from "react-router";
import { api, data, type Schemas } from "../api/client";
import { routinesQuery, type SourceKind, studiesQuery, trayQuery, useChange } from "../api/queries";
import { ofStudies } from "../api/touched";
import { day, numberOf, sourceName, stickName } from "../app/format";
import { Loading, Page, Trouble } from "../app/parts";
import { useSourceLabel } from "../capture/source";
import "./shop.css";

/** How far this bench can be trusted, by model and source. */
export function Component() {
  const { data: studies, error } = useQuery(studiesQuery);
  const [beginning, setBeginning] = useState(false);
  if (!studies && !error) return <Loading what="the bench checks" />;
  if (beginning) return <Begin leave={() => setBeginning(false)} />;
  return (
    <Page title="Bench checks">
      <p className="lead">
        Measure the same untouched stick three times or more, and the scatter is the bench’s own:
        the smallest change it can see. With several people and sticks, it is told apart who and
        what it comes from.
      </p>
      <Trouble error={error} />
      {studies?.length === 0 && (
        <p>None yet. Until there is one, each take’s ± speaks for itself alone.</p>
      )}
      <ul className="sheet">
        {studies?.map((s) => (
          <li key={s.study.id}>
            <h2>
              <Link to={`/bench-checks/${s.study.id}`}>
                {s.model}, {sourceName(s.study.source_kind, s.study.source_name)}
              </Link>
            </h2>
            <p className={s.stale ? "near" : ""}>{stateOf(s)}</p>
            <div>
              <p>
                {s.names.join(", ")} · {s.study.roles.join(", ")} · {s.study.trials} times each
              </p>
            </div>
          </li>
        ))}
      </ul>
      <p className="actions">
        <Button variant="contained" onClick={() => setBeginning(true)}>
          Begin a bench check
        </Button>
      </p>
    </Page>
  );
}

export function stateOf(view: Schemas["StudyView"]): string {
  if (view.study.completed_at) {
    return view.stale
      ? `Overdue: of ${day(view.study.completed_at)}, over three months ago`
      : `Complete, ${day(view.study.completed_at)}`;
  }
  if (view.broken) return "Broken off";
  const done = view.cells.reduce((sum, c) => sum + c.takes.length, 0);
  return `${done} of ${view.cells.length * view.study.trials} takes`;
}

interface Typed {
  model: string;
  kind: SourceKind;
  name: string;
  roles: string;
  trials: string;
  routine: string;
  chosen: string[];
}

function Begin({ leave }: { leave: () => void }) {
  const navigate = useNavigate();
  const { data: strips } = useQuery(trayQuery);
  const { data: routines } = useQuery(routinesQuery);
  const labelOf = useSourceLabel();
  const open = strips?.filter((s) => s.station !== "closed") ?? [];
  const models = [
    ...new Map(open.map((s) => [s.model_id, { id: s.model_id, name: s.model }])).values(),
  ];
  const { register, control, handleSubmit, watch, setValue } = useForm<Typed>({
    defaultValues: {
      model: "",
      kind: "stand-in",
      name: "",
      roles: "",
      trials: "3",
      routine: "quick",
      chosen: [],
    },
  });
  const [asked, kind, chosen] = watch(["model", "kind", "chosen"]);
  const model = models.find((m) => m.id === asked) ?? models[0];
  const sticks = open
    .filter((s) => s.model_id === model?.id)
    .flatMap((s) =>
      s.pins.map((k) => ({
        key: `${s.job_id} ${k.stick}`,
        job_id: s.job_id,
        stick: k.stick,
        label: `${s.tag} ${stickName(k.stick)}`,
      })),
    );
  const begin = useChange(
    (typed: Typed) =>
      data(
        api.POST("/api/studies", {
          body: {
            source_kind: typed.kind,
            source_name: typed.kind === "stand-in" ? "Stand-in" : typed.name.trim(),
            roles: typed.roles
              .split(",")
              .map((r) => r.trim())
              .filter(Boolean),
            sticks: sticks
              .filter((s) => typed.chosen.includes(s.key))
              .map(({ job_id, stick }) => ({ job_id, stick })),
            trials: numberOf(typed.trials),
            routine_id: typed.routine,
          },
        }),
      ),
    ofStudies,
  );
  return (
    <Page title="Begin a bench check">
      <form
        className="form"
        onSubmit={handleSubmit((typed) =>
          begin.mutate(typed, { onSuccess: (made) => navigate(`/bench-checks/${made.study.id}`) }),
        )}
      >
        <div className="fields">
          <TextField
            select
            label="Model"
            value={model?.id ?? ""}
            onChange={(e) => {
              setValue("model", e.target.value);
              setValue("chosen", []);
            }}
          >
            {models.map((m) => (
              <MenuItem key={m.id} value={m.id}>
                {m.name}
              </MenuItem>
            ))}
          </TextField>
          <Controller
            name="kind"
            control={control}
            render={({ field }) => (
              <TextField select label="Source" {...field}>
                {(["gamepad", "event-device", "serial", "stand-in"] as const).map((k) => (
                  <MenuItem key={k} value={k}>
                    {labelOf(k)}
                  </MenuItem>
                ))}
              </TextField>
            )}
          />
          {kind !== "stand-in" && (
            <TextField label="Its name, as takes show it" {...register("name")} />
          )}
        </div>
        <fieldset>
          <legend>Sticks on the bench that nobody works on meanwhile</legend>
          <div className="checks">
            {sticks.map((s) => (
              <FormControlLabel
                key={s.key}
                label={s.label}
                control={
                  <Checkbox
                    checked={chosen.includes(s.key)}
                    onChange={(_, on) =>
                      setValue(
                        "chosen",
                        on ? [...chosen, s.key] : chosen.filter((k) => k !== s.key),
                      )
                    }
                  />
                }
              />
            ))}
          </div>
        </fieldset>
        <TextField
          label="Who measures: bench roles, separated by commas"
          placeholder="morning bench, evening bench"
          {...register("roles")}
        />
        <div className="fields">
          <TextField label="Times each" type="number" {...register("trials")} />
          <Controller
            name="routine"
            control={control}
            render={({ field }) => (
              <TextField select label="Routine" {...field}>
                {routines?.map(({ routine: r }) => (
                  <MenuItem key={r.id} value={r.id}>
                    {r.name}
                  </MenuItem>
                ))}
              </TextField>
            )}
          />
        </div>
        <Trouble error={begin.error} />
        <p className="actions">
          <Button type="submit" variant="contained" disabled={begin.isPending || !chosen.length}>
            Begin
          </Button>
          <Button onClick={leave}>Not now</Button>
        </p>
      </form>
    </Page>
  );
}
