import Button from "@mui/material/Button";
import MenuItem from "@mui/material/MenuItem";
import TextField from "@mui/material/TextField";
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { Link, useNavigate, useParams } from "react-router";
import { api, data, type Schemas } from "../api/client";
import { lasting } from "../api/problem";
import { studyQuery, useChange, useReadingInfo } from "../api/queries";
import { ofStudies } from "../api/touched";
import { decimal, sourceName } from "../app/format";
import { Loading, NotShown, Remove, Trouble } from "../app/parts";
import { NumbersTable } from "../plots/parts";
import { ByOperator, Components, Ranges } from "../plots/StudyPlots";
import "./shop.css";
import { stateOf } from "./StudiesPage";

const orDash = (v: number | null, d: number) => (v === null ? "–" : decimal(v, d));
const digits = (v: number) => (v < 0.1 ? 3 : 2);

/** A bench check: what is still to be measured, and then what it showed. */
export function Component() {
  const studyId = Number(useParams().studyId);
  const { data: view, error } = lasting(useQuery(studyQuery(studyId)));
  const navigate = useNavigate();
  const remove = useChange(
    () => data(api.DELETE("/api/studies/{study_id}", { params: { path: { study_id: studyId } } })),
    ofStudies,
  );
  if (error) return <NotShown title="This bench check cannot be shown." error={error} />;
  if (!view) return <Loading what="the bench check" />;
  return (
    <section className="page study">
      <header>
        <h1 className="sentence">
          {view.model}, {sourceName(view.study.source_kind, view.study.source_name)}:{" "}
          {sentenceOf(view)}
        </h1>
        <p className="soft meta">
          {stateOf(view)} · {view.study.routine.name} · {view.study.trials} times each ·{" "}
          <Remove
            label="remove this bench check"
            run={() => remove.mutate(undefined, { onSuccess: () => navigate("/bench-checks") })}
          />
        </p>
      </header>
      <Trouble error={remove.error} />
      {view.broken && <p className="trouble">{view.broken} Begin another.</p>}
      {view.study.completed_at ? <Result view={view} /> : <Plan view={view} />}
    </section>
  );
}

function sentenceOf(view: Schemas["StudyView"]): string {
  if (!view.study.completed_at) return "still being measured.";
  const shown =
    view.shown.find((s) => s.path === "composite.dead_zone_needed") ??
    view.shown.find((s) => s.path === "turn.jitter");
  if (!shown) return "complete.";
  return `the smallest change this bench can see is ${decimal(shown.smallest_change)} %.`;
}

function Plan({ view }: { view: Schemas["StudyView"] }) {
  const { study } = view;
  return (
    <table className="study-plan">
      <thead>
        <tr>
          <th scope="col">Stick</th>
          {study.roles.map((r) => (
            <th key={r} scope="col">
              {r}
            </th>
          ))}
        </tr>
      </thead>
      <tbody>
        {study.sticks.map((s, i) => (
          <tr key={`${s.job_id} ${s.stick}`}>
            <th scope="row">{view.names[i]}</th>
            {study.roles.map((role) => {
              const cell = view.cells.find((c) => c.stick === i && c.role === role);
              const done = cell?.takes.length ?? 0;
              const query = new URLSearchParams({
                stick: s.stick,
                role,
                study: String(study.id),
                routine: study.routine.id,
              });
              return (
                <td key={role}>
                  <span className="figures">
                    {done} of {study.trials}
                  </span>{" "}
                  {done < study.trials && !view.broken && (
                    <Button size="small" component={Link} to={`/jobs/${s.job_id}/prove?${query}`}>
                      Measure
                    </Button>
                  )}
                </td>
              );
            })}
          </tr>
        ))}
      </tbody>
    </table>
  );
}

function Result({ view }: { view: Schemas["StudyView"] }) {
  const info = useReadingInfo();
  const usual = view.shown.find((s) => s.path === "composite.dead_zone_needed") ?? view.shown[0];
  const [path, setPath] = useState(usual?.path ?? "");
  const shown = view.shown.find((s) => s.path === path) ?? usual;
  if (!shown) return <p>No reading was measured in every take.</p>;
  const reading = info(shown.path);
  const unit = reading?.unit ?? "";
  return (
    <>
      <TextField
        select
        label="Reading"
        value={shown.path}
        onChange={(e) => setPath(e.target.value)}
        className="reading-choice"
      >
        {view.shown.map((s) => (
          <MenuItem key={s.path} value={s.path}>
            {info(s.path)?.label ?? s.path}
          </MenuItem>
        ))}
      </TextField>
      <Verdict shown={shown} unit={unit} />
      <div className="plots">
        <ByOperator view={view} shown={shown} unit={unit} />
        <Ranges view={view} shown={shown} unit={unit} />
        <Components shown={shown} unit={unit} />
      </div>
      <details className="more">
        <summary>Every reading, and the analysis of variance of this one</summary>
        <Table view={view} label={(p) => info(p)?.label ?? p} />
        <Anova shown={shown} />
      </details>
    </>
  );
}

function Verdict({ shown, unit }: { shown: Schemas["StudiedReading"]; unit: string }) {
  const { gauge } = shown;
  const figures: [string, string, string][] = [
    [
      "Smallest change seen",
      `${decimal(shown.smallest_change, digits(shown.smallest_change))} ${unit}`,
      "two takes apart",
    ],
    [
      "Repeatability",
      `${decimal(gauge.repeatability, digits(gauge.repeatability))} ${unit}`,
      "the same hands again",
    ],
  ];
  if (gauge.reproducibility !== null) {
    figures.push([
      "Reproducibility",
      `${decimal(gauge.reproducibility, digits(gauge.reproducibility))} ${unit}`,
      gauge.pooled ? "other hands; no interaction" : "other hands, and hands with sticks",
    ]);
  }
  if (gauge.ndc !== null) {
    figures.push([
      "Kinds it can tell apart",
      String(gauge.ndc),
      gauge.ndc >= 5 ? "enough to sort sticks by" : "five or more would sort sticks",
    ]);
  }
  return (
    <ul className="figures-strip deltas">
      {figures.map(([label, value, tells]) => (
        <li key={label}>
          <div className="number">
            <span className="number-label">{label}</span>
            <span className="number-value">{value}</span>
            <span className="soft">{tells}</span>
          </div>
        </li>
      ))}
    </ul>
  );
}

function Table({ view, label }: { view: Schemas["StudyView"]; label: (path: string) => string }) {
  return (
    <NumbersTable
      caption="Every reading"
      head={["Reading", "Repeatability", "Reproducibility", "Both", "Smallest change"]}
      rows={view.shown.map(({ path, gauge: g, smallest_change: s }) => [
        label(path),
        decimal(g.repeatability, 3),
        orDash(g.reproducibility, 3),
        decimal(g.gauge_rr, 3),
        decimal(s, 3),
      ])}
    />
  );
}

function Anova({ shown }: { shown: Schemas["StudiedReading"] }) {
  return (
    <NumbersTable
      caption="Analysis of variance"
      head={["Source", "Squares", "Degrees of freedom", "Mean square", "F", "p"]}
      rows={shown.gauge.anova.map((row) => [
        row.source,
        decimal(row.squares, 4),
        row.freedom,
        decimal(row.mean_square, 4),
        orDash(row.f, 2),
        orDash(row.p, 3),
      ])}
    />
  );
}
