import Button from "@mui/material/Button";
import MenuItem from "@mui/material/MenuItem";
import TextField from "@mui/material/TextField";
import { useMemo, useState } from "react";
import type { Schemas } from "../api/client";
import { decimal, numberOf } from "../app/format";
import { SpanTrace } from "../plots/SpanTrace";
import { STEP_LABEL, type StepName, stepLabel } from "../plots/steps";
import "./capture.css";

type Found = Schemas["FoundSteps"];
type Span = Schemas["SpanSpec"];

interface Row {
  id: number;
  step: StepName;
  from: string;
  to: string;
}

const asRow = (s: Span, id: number): Row => ({
  id,
  step: s.step,
  from: s.from_s.toFixed(2),
  to: s.to_s.toFixed(2),
});

/** What the steps of a table seem to be, on its trace, to be corrected before it is brought in. */
export function StepsForm({
  found,
  submit,
  busy,
}: {
  found: Found;
  submit: (spans: Span[]) => void;
  busy: boolean;
}) {
  const [rows, setRows] = useState(() => found.spans.map(asRow));
  const [at, setAt] = useState<number | null>(null);
  const change = (id: number, part: Partial<Row>) =>
    setRows(rows.map((r) => (r.id === id ? { ...r, ...part } : r)));
  const spans = useMemo(
    () => rows.map((r) => ({ step: r.step, from_s: numberOf(r.from), to_s: numberOf(r.to) })),
    [rows],
  );
  const bands = useMemo(
    () => spans.map((s) => ({ from: s.from_s, to: s.to_s, label: stepLabel(s.step) })),
    [spans],
  );
  const place = rows.findIndex((r) => r.id === at);
  const focus = bands[place] ?? null;
  const add = (from: number, to: number) => {
    const step = found.missing[0] ?? found.possible[0];
    if (!step) return;
    const id = Math.max(-1, ...rows.map((r) => r.id)) + 1;
    setRows([...rows, { ...asRow({ step, from_s: from, to_s: to }, id) }]);
    setAt(id);
  };
  const mark = (from: number, to: number) => {
    if (at === null) add(from, to);
    else change(at, { from: from.toFixed(2), to: to.toFixed(2) });
  };
  const ready = spans.every((s) => s.to_s > s.from_s);
  return (
    <section className="steps-form" aria-label="The steps of the table">
      <p className="lead" role="status">
        {found.says}
      </p>
      <SpanTrace t={found.t} u={found.u} bands={bands} focus={focus} marked={mark} height={230} />
      <p className="soft">
        {decimal(found.seconds)} s, {found.samples} samples
        {found.rate_hz !== null && `, ${decimal(found.rate_hz)} Hz`}. Drag over the trace to say
        where the marked step lies; with none marked a new one is made.
      </p>
      <ul className="rows">
        {rows.map((r) => (
          <li key={r.id} className={r.id === at ? "chosen" : ""} onFocus={() => setAt(r.id)}>
            <TextField
              select
              size="small"
              label="Step"
              value={r.step}
              onChange={(e) => change(r.id, { step: e.target.value as StepName })}
            >
              {found.possible.map((s) => (
                <MenuItem key={s} value={s}>
                  {STEP_LABEL[s]}
                </MenuItem>
              ))}
            </TextField>
            <TextField
              size="small"
              label="From, s"
              value={r.from}
              error={!Number.isFinite(numberOf(r.from))}
              onChange={(e) => change(r.id, { from: e.target.value })}
            />
            <TextField
              size="small"
              label="To, s"
              value={r.to}
              error={!(numberOf(r.to) > numberOf(r.from))}
              onChange={(e) => change(r.id, { to: e.target.value })}
            />
            <button
              type="button"
              className="plain link"
              onClick={() => {
                setRows(rows.filter((other) => other.id !== r.id));
                setAt(null);
              }}
            >
              Leave it out
            </button>
          </li>
        ))}
      </ul>
      <p className="actions">
        <Button variant="contained" disabled={!ready || busy} onClick={() => submit(spans)}>
          Read it with these steps
        </Button>
        <Button onClick={() => add(0, Math.min(10, found.seconds))}>Name another step</Button>
      </p>
    </section>
  );
}
