import Button from "@mui/material/Button";
import MenuItem from "@mui/material/MenuItem";
import TextField from "@mui/material/TextField";
import ToggleButton from "@mui/material/ToggleButton";
import ToggleButtonGroup from "@mui/material/ToggleButtonGroup";
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { Link, useNavigate, useSearchParams } from "react-router";
import { api, data, type Schemas } from "../api/client";
import { routinesQuery, useChange } from "../api/queries";
import { ofJob } from "../api/touched";
import { capital, duration, stickName } from "../app/format";
import { useKeys } from "../app/keys";
import { Trouble } from "../app/parts";
import { setBenchRole, useBenchRole } from "../app/role";
import { ConditionFields, type Conditions } from "./ConditionFields";
import { shapeOf } from "./routine";
import { SourceCheck } from "./SourceCheck";
import { SourceFields } from "./SourceFields";
import { type Choice, NO_CHOICE, useSource } from "./source";
import "./capture.css";

type Which = "one" | "after" | "together";

/** Choose what is measured, by which source and how; Space begins. */
export function StartTake({ view }: { view: Schemas["JobView"] }) {
  const { job } = view;
  const model = job.controller.model;
  const navigate = useNavigate();
  const [search] = useSearchParams();
  const [choice, setChoice] = useState<Choice>(NO_CHOICE);
  const [name, setName] = useState(search.get("stick") ?? job.stick);
  const [which, setWhich] = useState<Which>("one");
  const [routineId, setRoutineId] = useState<string | null>(search.get("routine"));
  const [had, setHad] = useState<Partial<Conditions>>({
    ...(search.has("role") && { role: search.get("role") ?? "" }),
    ...(search.get("shell") === "open" && { shell: "open" as const }),
  });
  const { data: routines } = useQuery(routinesQuery);
  const stick = model.sticks.find((s) => s.name === name) ?? model.sticks[0];
  const source = useSource(view, choice);
  const other = model.sticks.find((s) => s.name !== stick?.name && s.axes === stick?.axes);
  const shape = shapeOf(stick ?? { axes: 2, sprung: true });
  const possible = (routines ?? []).filter((r) => r.seconds[shape] !== undefined);
  const routine = (
    possible.find((r) => r.routine.id === routineId) ??
    possible.find((r) => r.usual_for.includes(shape))
  )?.routine;
  const next = view.next_conditions;
  const role = useBenchRole();
  const conditions = { ...next, role: role || next.role, ...had };
  const study = search.get("study");
  const twoCould = other !== undefined && source.kind !== "serial" && source.kind !== "file";
  const both = twoCould && !study ? which : "one";

  const [trying, setTrying] = useState(false);

  const start = useChange(async () => {
    const together = both === "one" ? "" : `${job.id}-${Date.now()}`;
    const begin = (of: Schemas["ModelStick"]) => {
      const body = source.body(of);
      if (!body) throw new Error("The source is not ready.");
      return data(
        api.POST("/api/jobs/{job_id}/takes", {
          params: { path: { job_id: job.id } },
          body: {
            stick: of.name,
            source: body,
            routine_id: routine?.id ?? null,
            ...conditions,
            together,
            study_id: study ? Number(study) : null,
          },
        }),
      );
    };
    if (!stick) throw new Error("There is no stick.");
    const first = await begin(stick);
    return { first, second: both !== "one" && other ? await begin(other) : null };
  }, ofJob(job.id));
  const ready =
    stick !== undefined &&
    routine !== undefined &&
    source.body(stick) !== null &&
    !start.isPending &&
    !trying;
  const begin = () => {
    if (!ready) return;
    setBenchRole(conditions.role);
    start.mutate(undefined, {
      onSuccess: ({ first, second }) => {
        const query = new URLSearchParams(
          source.kind === "gamepad" ? { pad: String(source.pad?.index) } : { hand: choice.hand },
        );
        const pace = search.get("pace");
        if (pace) query.set("pace", pace);
        if (study) query.set("study", study);
        if (second) query.set(both === "after" ? "then" : "also", String(second.id));
        navigate(`/jobs/${job.id}/takes/${first.id}/live?${query}`);
      },
    });
  };
  useKeys([{ key: "space", shown: "Space", does: "start the take", run: begin, when: ready }]);
  if (!stick) return null;
  return (
    <div className="start">
      <div className="start-columns">
        <div className="form">
          {model.sticks.length > 1 && (
            <fieldset>
              <legend>Stick</legend>
              <ToggleButtonGroup
                exclusive
                size="small"
                value={stick.name}
                onChange={(_, s: string | null) => s && setName(s)}
                aria-label="Stick"
              >
                {model.sticks.map((s) => (
                  <ToggleButton key={s.name} value={s.name}>
                    {capital(stickName(s.name))}
                  </ToggleButton>
                ))}
              </ToggleButtonGroup>
              {twoCould && !study && (
                <TextField
                  select
                  label="The other one is the reference"
                  value={both}
                  onChange={(e) => setWhich(e.target.value as Which)}
                >
                  <MenuItem value="one">Measure this one only</MenuItem>
                  <MenuItem value="after">Both, one after the other</MenuItem>
                  <MenuItem value="together">Both at once, each hand one</MenuItem>
                </TextField>
              )}
            </fieldset>
          )}
          <SourceFields
            view={view}
            stick={stick}
            choice={choice}
            choose={(change) => setChoice({ ...choice, ...change })}
            source={source}
          />
        </div>
        {source.kind !== "file" && (
          <div className="form">
            <fieldset>
              <legend>Routine</legend>
              <TextField
                select
                label="What is asked for"
                value={routine?.id ?? ""}
                onChange={(e) => setRoutineId(e.target.value)}
                helperText={routine?.note || " "}
              >
                {possible.map(({ routine: r, seconds }) => (
                  <MenuItem key={r.id} value={r.id}>
                    {r.name}, about {duration(seconds[shape] ?? 0)}
                  </MenuItem>
                ))}
              </TextField>
            </fieldset>
            <ConditionFields
              value={conditions}
              change={(change) => setHad({ ...had, ...change })}
            />
            <SourceCheck view={view} stick={stick} source={source} busy={setTrying} />
          </div>
        )}
      </div>
      <Trouble error={start.error} />
      <p className="actions">
        {source.kind === "file" ? (
          <Button
            component={Link}
            to={`/jobs/${job.id}/file?stick=${stick.name}`}
            variant="contained"
          >
            Choose a file
          </Button>
        ) : (
          <>
            <Button variant="contained" size="large" onClick={begin} disabled={!ready}>
              Start the take <kbd>Space</kbd>
            </Button>
            <span className="soft">It runs itself; Space is the only key it needs.</span>
          </>
        )}
      </p>
    </div>
  );
}
