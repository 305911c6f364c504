import Button from "@mui/material/Button";
import Checkbox from "@mui/material/Checkbox";
import FormControlLabel from "@mui/material/FormControlLabel";
import TextField from "@mui/material/TextField";
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { api, data, type Schemas } from "../api/client";
import { Problem } from "../api/problem";
import { routinesQuery, useChange } from "../api/queries";
import { duration, numberOf } from "../app/format";
import { Loading, Page, Remove, Trouble } from "../app/parts";
import { STEP_LABEL, type StepName } from "../plots/steps";
import "./shop.css";

type Routine = Schemas["Routine"];
type Body = Schemas["RoutineBody"];

const SHAPE = { "two-axes": "two axes", lever: "a lever", paddle: "a paddle" } as const;
const ORDER = Object.keys(STEP_LABEL) as StepName[];

/** What a routine asks for, in words. */
export function describe(r: Routine): string {
  const each: Record<StepName, string> = {
    still: `Still ${duration(r.still_s)}`,
    "let-go": `Let-go ${r.releases} each way`,
    rim: `Rim ${r.laps} laps each way`,
    "crossing-x": `Crossing x ${r.passes} passes`,
    "crossing-y": `Crossing y ${r.passes} passes`,
    hold: `Hold ${duration(r.hold_s)}`,
    turn: `Turn ${r.passes} passes`,
  };
  return r.steps.map((s) => each[s]).join(" · ");
}

/** How long it takes which kind of stick; said once where all take as long. */
function lengths(seconds: Record<string, number>): string {
  const durations = Object.entries(seconds).map(([shape, s]) => [duration(s), shape] as const);
  if (durations.length === 3 && new Set(durations.map(([time]) => time)).size === 1) {
    return `${durations[0]?.[0]}, any stick`;
  }
  return durations
    .map(([time, shape]) => `${time}, ${SHAPE[shape as keyof typeof SHAPE]}`)
    .join(" · ");
}

/** The usual routines and the shop's own. What one leaves out is not measured, never fine. */
export function Component() {
  const { data: routines, error } = useQuery(routinesQuery);
  const [editing, setEditing] = useState<Routine | null>(null);
  const remove = useChange(
    (id: string) =>
      data(api.DELETE("/api/routines/{routine_id}", { params: { path: { routine_id: id } } })),
    [["routines"]],
  );
  if (!routines && !error) return <Loading what="the routines" />;
  if (editing) return <Edit routine={editing} done={() => setEditing(null)} />;
  return (
    <Page title="Routines">
      <p className="lead">
        Which steps a take goes through. What a routine leaves out is not measured, never fine.
      </p>
      <Trouble error={error ?? remove.error} />
      <ul className="sheet">
        {routines?.map(({ routine: r, seconds, own }) => (
          <li key={r.id}>
            <h2>{r.name}</h2>
            <p className="figures">{lengths(seconds)}</p>
            <div>
              <p>{describe(r)}</p>
              {r.note && <p className="soft">{r.note}</p>}
              <p className="actions">
                {own && (
                  <>
                    <Button size="small" onClick={() => setEditing(r)}>
                      Change
                    </Button>
                    <Remove label="remove" run={() => remove.mutate(r.id)} />
                  </>
                )}
                <Button
                  size="small"
                  onClick={() => setEditing({ ...r, id: "", name: `${r.name}, ours`, note: "" })}
                >
                  Make one like it
                </Button>
              </p>
            </div>
          </li>
        ))}
      </ul>
    </Page>
  );
}

const AMOUNTS: {
  key: "still_s" | "releases" | "laps" | "passes" | "hold_s";
  label: string;
  of: StepName[];
}[] = [
  { key: "still_s", label: "Still, seconds (5 to 3600)", of: ["still"] },
  { key: "releases", label: "Releases toward each direction", of: ["let-go"] },
  { key: "laps", label: "Laps each way", of: ["rim"] },
  { key: "passes", label: "Passes", of: ["crossing-x", "crossing-y", "turn"] },
  { key: "hold_s", label: "Hold, seconds each", of: ["hold"] },
];

function Edit({ routine, done }: { routine: Routine; done: () => void }) {
  const { id, ...start } = routine;
  const [body, setBody] = useState<Body>({ ...start, steps: [...start.steps] });
  const keep = useChange(
    (b: Body) =>
      id
        ? data(
            api.PUT("/api/routines/{routine_id}", {
              params: { path: { routine_id: id } },
              body: b,
            }),
          )
        : data(api.POST("/api/routines", { body: b })),
    [["routines"]],
  );
  const wrong = keep.error instanceof Problem ? keep.error.fields : {};
  const toggle = (step: StepName) =>
    setBody({
      ...body,
      steps: ORDER.filter((s) => (s === step ? !body.steps.includes(s) : body.steps.includes(s))),
    });
  return (
    <Page title={id ? `Change ${routine.name}` : "A routine of your own"}>
      <form
        className="form"
        onSubmit={(e) => {
          e.preventDefault();
          keep.mutate(body, { onSuccess: done });
        }}
      >
        <TextField
          label="Name"
          value={body.name}
          error={"name" in wrong}
          helperText={wrong.name}
          onChange={(e) => setBody({ ...body, name: e.target.value })}
        />
        <fieldset>
          <legend>Steps, in this order</legend>
          <div className="checks">
            {ORDER.map((step) => (
              <FormControlLabel
                key={step}
                label={STEP_LABEL[step]}
                control={
                  <Checkbox checked={body.steps.includes(step)} onChange={() => toggle(step)} />
                }
              />
            ))}
          </div>
        </fieldset>
        <div className="fields">
          {AMOUNTS.filter(({ of }) => of.some((s) => body.steps.includes(s))).map(
            ({ key, label }) => (
              <TextField
                key={key}
                label={label}
                type="number"
                value={Number.isNaN(body[key]) ? "" : body[key]}
                error={key in wrong}
                helperText={wrong[key]}
                onChange={(e) => setBody({ ...body, [key]: numberOf(e.target.value) })}
              />
            ),
          )}
        </div>
        <TextField
          label="What it is for"
          value={body.note}
          onChange={(e) => setBody({ ...body, note: e.target.value })}
        />
        <Trouble error={keep.error} />
        <p className="actions">
          <Button type="submit" variant="contained" disabled={keep.isPending}>
            Keep the routine
          </Button>
          <Button onClick={done}>Leave it as it was</Button>
        </p>
      </form>
    </Page>
  );
}
