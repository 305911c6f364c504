import Button from "@mui/material/Button";
import MenuItem from "@mui/material/MenuItem";
import TextField from "@mui/material/TextField";
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { Link, useSearchParams } from "react-router";
import { api, data, type Schemas } from "../api/client";
import { lasting, Problem } from "../api/problem";
import { calculatedQuery, calculatorsQuery, useChange } from "../api/queries";
import { NOTHING, ofJob } from "../api/touched";
import { Choose } from "../app/Choose";
import { Loading, NotShown, Trouble } from "../app/parts";
import "./calculators.css";
import { CurvePlot } from "./CurvePlot";
import { PlanePlot } from "./PlanePlot";

type Info = Schemas["CalculatorInfo"];

/** The arithmetic of the bench: one calculator at a time, in the address so that it can be shared. */
export function Component() {
  const { data: all, error } = lasting(useQuery(calculatorsQuery));
  const [search, setSearch] = useSearchParams();
  if (error) return <NotShown title="The calculators cannot be shown." error={error} />;
  const chosen = all?.find((c) => c.name === search.get("name")) ?? all?.[0];
  if (!all || !chosen) return <Loading what="the calculators" />;
  return (
    <section className="page calculators">
      <h1 className="hidden">{chosen.title}</h1>
      <Choose
        label="Calculate"
        options={all.map((c) => [c.name, c.title] as const)}
        value={chosen.name}
        onChange={(name) => {
          const job = search.get("job");
          setSearch({ name, ...(job ? { job } : {}) }, { replace: true });
        }}
      />
      <Calculator key={chosen.name} info={chosen} job={Number(search.get("job") ?? 0)} />
    </section>
  );
}

function Calculator({ info, job }: { info: Info; job: number }) {
  const [typed, setTyped] = useState<Record<string, string>>(() =>
    Object.fromEntries(info.inputs.filter((i) => i.first).map((i) => [i.key, i.first])),
  );
  const inputs = Object.fromEntries(Object.entries(typed).filter(([, text]) => text.trim() !== ""));
  const {
    data: found,
    error,
    isPlaceholderData: ofBefore,
  } = useQuery(calculatedQuery(info.name, inputs, info.over_stick && job ? job : null));
  const wrong = error instanceof Problem ? error.fields : {};
  const set = (key: string, text: string) =>
    setTyped((before) => (info.one_of ? { [key]: text } : { ...before, [key]: text }));
  return (
    <div className="calculator">
      <form className="calculator-inputs" onSubmit={(e) => e.preventDefault()}>
        {info.inputs.map((input) => (
          <Field
            key={input.key}
            input={input}
            text={typed[input.key] ?? ""}
            wrong={wrong[input.key]}
            set={(text) => set(input.key, text)}
          />
        ))}
        {job > 0 && (
          <FromJob
            job={job}
            info={info}
            fill={(more) => setTyped((before) => ({ ...before, ...more }))}
          />
        )}
      </form>
      <div className="calculator-answer">
        {error && !(error instanceof Problem && Object.keys(wrong).length) && (
          <Trouble error={error} />
        )}
        {found && <Answer info={info} values={found.values} />}
        <div className="calculator-plots">
          {found?.plots.map((plot) =>
            plot.plane ? (
              <PlanePlot key={plot.look} plot={plot} />
            ) : (
              <CurvePlot key={plot.look} plot={plot} title={info.title} />
            ),
          )}
        </div>
        <p className="soft calculator-formula">{info.formula}</p>
        {info.caution && <p className="calculator-caution">{info.caution}</p>}
        {job > 0 && found && (
          <Keep job={job} info={info} given={inputs} values={found.values} ofBefore={ofBefore} />
        )}
      </div>
    </div>
  );
}

function Field({
  input,
  text,
  wrong,
  set,
}: {
  input: Schemas["InputInfo"];
  text: string;
  wrong: string | undefined;
  set: (text: string) => void;
}) {
  const label = input.unit ? `${input.says}, ${input.unit}` : input.says;
  return (
    <TextField
      size="small"
      fullWidth
      label={label}
      value={text}
      error={wrong !== undefined}
      helperText={wrong ?? (input.optional ? `${input.bounds}; may be left out` : input.bounds)}
      onChange={(e) => set(e.target.value)}
      {...(input.choices.length > 0
        ? { select: true }
        : { slotProps: { htmlInput: { inputMode: "decimal", maxLength: 40 } } })}
    >
      {input.choices.length > 0 &&
        [...(input.optional ? [""] : []), ...input.choices].map((choice) => (
          <MenuItem key={choice} value={choice}>
            {choice || "as usual"}
          </MenuItem>
        ))}
    </TextField>
  );
}

function asText(value: unknown): string {
  if (value === null || value === undefined) return "none";
  if (Array.isArray(value) && value.length === 0) return "none";
  if (typeof value === "boolean") return value ? "yes" : "no";
  if (typeof value !== "number") return String(value);
  return String(Number(value.toPrecision(4))).replace("-", "−");
}

function Answer({ info, values }: { info: Info; values: Record<string, unknown> }) {
  return (
    <dl className="calculator-values" aria-live="polite">
      {info.outputs.map(({ key, says, unit }) => {
        const value = values[key];
        const lines = Array.isArray(value) && value.length > 0 ? value : null;
        return (
          <div
            key={key}
            className={Array.isArray(value) || typeof value === "string" ? "wide" : ""}
          >
            <dt>{says}</dt>
            <dd>
              {lines ? (
                <ul>
                  {lines.map((line) => (
                    <li key={String(line)}>{String(line)}</li>
                  ))}
                </ul>
              ) : (
                <span className="figures">
                  {asText(value)} {value !== null && unit}
                </span>
              )}
            </dd>
          </div>
        );
      })}
    </dl>
  );
}

/** What the job's newest take and its model say, for the inputs that there are. */
function FromJob({
  job,
  info,
  fill,
}: {
  job: number;
  info: Info;
  fill: (more: Record<string, string>) => void;
}) {
  const keys = new Set(info.inputs.map((i) => i.key));
  const ask = useChange(
    (axis: "x" | "y") =>
      data(
        api.GET("/api/calculators/from-job/{job_id}", {
          params: { path: { job_id: job }, query: { axis } },
        }),
      ),
    NOTHING,
  );
  const byAxis = keys.has("position");
  if (!byAxis && !info.over_stick) return null;
  const take = (axis: "x" | "y") =>
    ask.mutate(axis, {
      onSuccess: (found) =>
        fill(Object.fromEntries(Object.entries(found).filter(([key]) => keys.has(key)))),
    });
  return (
    <p className="actions">
      {byAxis ? (
        <>
          <Button onClick={() => take("x")}>From the take, x</Button>
          <Button onClick={() => take("y")}>From the take, y</Button>
        </>
      ) : (
        <Button onClick={() => take("x")}>From the take</Button>
      )}
      <Trouble error={ask.error} />
    </p>
  );
}

/** Put what came out in the job's ledger. ofBefore: it came out of what was typed before. */
function Keep({
  job,
  info,
  given,
  values,
  ofBefore,
}: {
  job: number;
  info: Info;
  given: Record<string, string>;
  values: Record<string, unknown>;
  ofBefore: boolean;
}) {
  const text = `${info.title}: ${Object.entries(given)
    .map(([key, value]) => `${key}=${value}`)
    .join(", ")}. ${info.outputs
    .filter(({ key }) => !Array.isArray(values[key]))
    .map(({ key, says, unit }) => `${says} ${asText(values[key])} ${unit}`.trim())
    .join("; ")}.`;
  const keep = useChange(
    () =>
      data(
        api.POST("/api/jobs/{job_id}/entries", {
          params: { path: { job_id: job } },
          body: { kind: "note", text },
        }),
      ),
    ofJob(job),
  );
  return (
    <p className="actions">
      <Button onClick={() => keep.mutate(undefined)} disabled={keep.isPending || ofBefore}>
        Put in the ledger
      </Button>
      {keep.isSuccess && <span role="status">It stands in the ledger.</span>}
      <Link to={`/jobs/${job}/decide`}>Back to the job</Link>
      <Trouble error={keep.error} />
    </p>
  );
}
