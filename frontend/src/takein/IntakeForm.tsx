import Button from "@mui/material/Button";
import TextField from "@mui/material/TextField";
import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useEffect, useState } from "react";
import { api, data, type Schemas } from "../api/client";
import { Problem } from "../api/problem";
import { catalogueQuery, jobQuery, useChange } from "../api/queries";
import { ofJob } from "../api/touched";
import { Choose, ChooseSeveral } from "../app/Choose";
import { capital, stickName } from "../app/format";
import { Trouble } from "../app/parts";
import { AxisEnds, ClockHours } from "./ClockHours";
import { detailsOf, type JobDetails, same } from "./details";
import "./takein.css";

const YES_NO = [
  ["yes", "Yes"],
  ["no", "No"],
] as const;

interface Base {
  told: JobDetails;
  revision: number;
}

/**
 * Everything that is asked at take-in, changed in place. What another window changed meanwhile is
 * said before it is overwritten; what is typed here stays.
 */
export function IntakeForm({ view }: { view: Schemas["JobView"] }) {
  const { job } = view;
  const client = useQueryClient();
  const { data: catalogue } = useQuery(catalogueQuery);
  const [base, setBase] = useState<Base>({ told: detailsOf(job), revision: job.revision });
  const [told, setTold] = useState<JobDetails>(base.told);
  const dirty = !same(told, base.told);
  // Another window's changes are shown at once while nothing is typed here.
  useEffect(() => {
    if (!dirty && job.revision !== base.revision) {
      const now = { told: detailsOf(job), revision: job.revision };
      setBase(now);
      setTold(now.told);
    }
  }, [dirty, job, base.revision]);
  // What they have must be here before it is said: whoever saves again at once saves over that.
  const takeTheirs = async () => {
    const fresh = await client.fetchQuery({ ...jobQuery(job.id), staleTime: 0 });
    const theirs = detailsOf(fresh.job);
    setTold((mine) => merged(mine, base.told, theirs));
    setBase({ told: theirs, revision: fresh.job.revision });
  };
  const save = useChange(async () => {
    try {
      return await data(
        api.PUT("/api/jobs/{job_id}/take-in", {
          params: { path: { job_id: job.id } },
          body: { told, since: base.told, revision: base.revision },
        }),
      );
    } catch (problem) {
      if (problem instanceof Problem && problem.title === "Changed meanwhile") await takeTheirs();
      throw problem;
    }
  }, ofJob(job.id));
  const keep = () =>
    save.mutate(undefined, {
      onSuccess: (kept) => {
        const now = { told: detailsOf(kept), revision: kept.revision };
        setBase(now);
        setTold(now.told);
      },
    });
  const set = (change: Partial<JobDetails>) => setTold((now) => ({ ...now, ...change }));
  const ask = (change: Partial<JobDetails["intake"]>) =>
    setTold((now) => ({ ...now, intake: { ...now.intake, ...change } }));
  const words = catalogue?.take_in;
  const label = (field: string) => words?.labels[field] ?? "";
  const wrong = save.error instanceof Problem ? save.error.fields : {};
  const answers = told.intake;
  const text = (field: "since" | "tried_note" | "cosmetic" | "accessories" | "price") => (
    <TextField
      label={label(field)}
      multiline
      maxRows={4}
      value={answers[field] ?? ""}
      error={field in wrong}
      onChange={(e) => ask({ [field]: e.target.value })}
    />
  );
  const own = job.controller.model.sticks.find((s) => s.name === told.stick);
  const Hours = own?.axes === 1 ? AxisEnds : ClockHours;
  const measured = view.takes.length > 0 || view.work.length > 0;
  const closed = job.closed_at !== null;
  return (
    <form
      noValidate
      onSubmit={(e) => {
        e.preventDefault();
        keep();
      }}
    >
      <fieldset className="intake" disabled={closed}>
        <legend className="hidden">What was told</legend>
        <div className="intake-main">
          <TextField
            label={label("complaint")}
            multiline
            minRows={2}
            maxRows={8}
            value={told.complaint}
            error={"complaint" in wrong}
            onChange={(e) => set({ complaint: e.target.value })}
          />
          <Choose
            label={words?.moves ?? ""}
            options={YES_NO}
            value={told.moves}
            none=""
            disabled={job.controller.refer}
            onChange={(moves) => set({ moves })}
          />
          {told.moves === "yes" && !job.controller.refer && (
            <p className="refer-note" role="status">
              {words?.refer} Once saved, this is not taken back.
            </p>
          )}
          <div className="intake-stick">
            <Hours value={answers.hours ?? []} onChange={(hours) => ask({ hours })} />
            <div>
              {job.controller.model.sticks.length > 1 && (
                <Choose
                  label={label("stick")}
                  options={job.controller.model.sticks.map(
                    (s) => [s.name, capital(stickName(s.name))] as const,
                  )}
                  value={told.stick}
                  disabled={measured}
                  onChange={(stick) => set({ stick })}
                />
              )}
              <Choose
                label={label("often")}
                options={[
                  ["always", "Always"],
                  ["sometimes", "Sometimes"],
                ]}
                value={answers.often ?? ""}
                none=""
                onChange={(often) => ask({ often })}
              />
              <Choose
                label={label("flick_clears")}
                options={YES_NO}
                value={answers.flick_clears ?? ""}
                none=""
                onChange={(flick_clears) => ask({ flick_clears })}
              />
            </div>
          </div>
          {text("since")}
          <Trouble error={save.error} />
          {!closed && (
            <p className="actions">
              <Button type="submit" variant="contained" disabled={!dirty || save.isPending}>
                {told.moves === "yes" && !job.controller.refer ? "Save and mark “refer”" : "Save"}
              </Button>
              <span className="soft" role="status">
                {dirty ? "Not saved yet." : base.revision > 1 ? "Saved." : ""}
              </span>
            </p>
          )}
        </div>
        <div className="intake-rest">
          <ChooseSeveral
            label={label("tried")}
            options={
              Object.entries(words?.tried ?? {}) as [
                NonNullable<JobDetails["intake"]["tried"]>[number],
                string,
              ][]
            }
            value={answers.tried ?? []}
            onChange={(tried) => ask({ tried })}
          />
          {text("tried_note")}
          <div className="intake-pairs">
            <Choose
              label={label("liquid")}
              options={YES_NO}
              value={answers.liquid ?? ""}
              none=""
              onChange={(liquid) => ask({ liquid })}
            />
            <Choose
              label={label("seal")}
              options={[
                ["whole", "Whole"],
                ["broken", "Broken"],
                ["none", "None"],
              ]}
              value={answers.seal ?? ""}
              none=""
              onChange={(seal) => ask({ seal })}
            />
            <Choose
              label={label("warranty")}
              options={YES_NO}
              value={answers.warranty ?? ""}
              none=""
              onChange={(warranty) => ask({ warranty })}
            />
            <Choose
              label={label("consent")}
              options={YES_NO}
              value={answers.consent ?? ""}
              none=""
              onChange={(consent) => ask({ consent })}
            />
          </div>
          {text("cosmetic")}
          {text("accessories")}
          <div className="pair">
            <TextField
              label={label("promised_on")}
              type="date"
              value={answers.promised_on ?? ""}
              error={"promised_on" in wrong}
              helperText={wrong.promised_on}
              slotProps={{ inputLabel: { shrink: true } }}
              onChange={(e) => ask({ promised_on: e.target.value })}
            />
            {text("price")}
          </div>
        </div>
      </fieldset>
    </form>
  );
}

/** Mine where I changed it, theirs everywhere else. */
function merged(mine: JobDetails, since: JobDetails, theirs: JobDetails): JobDetails {
  const pick = <T extends object>(a: T, b: T, c: T): T =>
    Object.fromEntries(
      Object.keys(c).map((key) => {
        const k = key as keyof T;
        return [key, JSON.stringify(a[k]) === JSON.stringify(b[k]) ? c[k] : a[k]];
      }),
    ) as T;
  return {
    ...pick(mine, since, theirs),
    intake: pick(mine.intake, since.intake, theirs.intake),
  };
}
