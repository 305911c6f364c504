import Button from "@mui/material/Button";
import MenuItem from "@mui/material/MenuItem";
import TextField from "@mui/material/TextField";
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { Link, useSearchParams } from "react-router";
import { api, data, type Schemas } from "../api/client";
import { lasting } from "../api/problem";
import { checkQuery, useChange } from "../api/queries";
import { ofCheck } from "../api/touched";
import { Loading, NotShown, Page, Trouble } from "../app/parts";
import { useGamepads } from "../capture/gamepad";
import { padName } from "../capture/source";
import { useJobView } from "../job/JobMat";
import { CheckResult } from "./CheckResult";
import { RunningCheck } from "./RunningCheck";

type Kind = Schemas["NewCheck"]["kind"];

/** The function check: begun, run, or looked at again. */
export function Component() {
  const view = useJobView();
  const [search, setSearch] = useSearchParams();
  const id = Number(search.get("check") ?? 0);
  const { data: found, error } = lasting(useQuery(checkQuery(id)));
  const kind: Kind = search.get("kind") === "final" ? "final" : "take-in";
  const [pad, setPad] = useState<number | null>(null);
  const began = (check: Schemas["FunctionCheckRecord"], from: number | null) => {
    setPad(from);
    setSearch({ kind: check.kind, check: String(check.id) }, { replace: true });
  };
  if (error) return <NotShown title="This function check cannot be shown." error={error} />;
  if (!id) return <Begin view={view} kind={kind} began={began} />;
  if (!found) return <Loading what="the function check" />;
  if (found.check.ended_at === null) {
    return <RunningCheck key={id} view={view} found={found} pad={pad} />;
  }
  return <CheckResult view={view} found={found} />;
}

function Begin({
  view,
  kind,
  began,
}: {
  view: Schemas["JobView"];
  kind: Kind;
  began: (check: Schemas["FunctionCheckRecord"], pad: number | null) => void;
}) {
  const pads = useGamepads();
  const [chosen, setChosen] = useState<string | null>(null);
  const { model, tag } = view.job.controller;
  const choice = chosen ?? (pads[0] ? String(pads[0].index) : "stand-in");
  const pad = pads.find((p) => String(p.index) === choice);
  const begin = useChange(
    () =>
      data(
        api.POST("/api/jobs/{job_id}/checks", {
          params: { path: { job_id: view.job.id } },
          body: {
            kind,
            source: pad
              ? {
                  name: padName(pad),
                  buttons: pad.buttons,
                  axes: pad.axes,
                  standard: pad.standard,
                }
              : null,
          },
        }),
      ),
    ofCheck(view.job.id),
  );
  const expected = model.sheet?.buttons;
  return (
    <Page
      title={
        kind === "final"
          ? `Press everything on ${tag} once more, before it goes.`
          : `Press everything on ${tag} once.`
      }
    >
      <p className="lead">
        A missing part found now is not your fault later.{" "}
        {expected
          ? `A ${model.name} has ${expected} button${expected === 1 ? "" : "s"}.`
          : `The ${model.name} sheet does not say how many buttons there are; what is reported counts.`}{" "}
        <Link to={`/models/${model.id}`}>Model sheet</Link>
      </p>
      <form
        className="form"
        onSubmit={(e) => {
          e.preventDefault();
          begin.mutate(undefined, { onSuccess: (check) => began(check, pad?.index ?? null) });
        }}
      >
        <TextField
          select
          label="Source"
          value={pad ? String(pad.index) : "stand-in"}
          onChange={(e) => setChosen(e.target.value)}
          helperText={
            pads.length ? "" : "No controller is seen. Plug it in and press any button on it."
          }
        >
          {pads.map((p) => (
            <MenuItem key={p.index} value={String(p.index)}>
              {padName(p)}
            </MenuItem>
          ))}
          <MenuItem value="stand-in">Stand-in: buttons on the screen</MenuItem>
        </TextField>
        <Trouble error={begin.error} />
        <p className="actions">
          <Button
            type="submit"
            variant="contained"
            disabled={begin.isPending || view.job.closed_at !== null}
          >
            Begin
          </Button>
          {view.job.closed_at !== null && <span className="soft">The job is closed.</span>}
        </p>
      </form>
    </Page>
  );
}
