import Button from "@mui/material/Button";
import TextField from "@mui/material/TextField";
import { useQuery } from "@tanstack/react-query";
import { useRef, useState } from "react";
import { Link } from "react-router";
import type { Schemas } from "../api/client";
import { lasting, Problem } from "../api/problem";
import { calibrationQuery } from "../api/queries";
import { Choose } from "../app/Choose";
import { decimal, stickName } from "../app/format";
import { useKeys } from "../app/keys";
import { Loading, NotShown } from "../app/parts";
import { useJobView } from "../job/JobMat";
import "./calibration.css";
import { Forecasts } from "./Forecasts";
import { KernelRange } from "./KernelRange";

type View = Schemas["CalibrationView"];
type Calibration = Schemas["Calibration"];

/** What a calibration of each kind would hold, and what became of the last one. */
export function Component() {
  const { job } = useJobView();
  const [margin, setMargin] = useState("0");
  const { data, error } = lasting(useQuery(calibrationQuery(job.id, margin)));
  // A margin that is refused leaves standing what the last one gave.
  const last = useRef(data);
  if (data) last.current = data;
  const view = data ?? last.current;
  const wrong = error instanceof Problem ? error.fields : {};
  if (error && !Object.keys(wrong).length)
    return <NotShown title="The calibration cannot be shown." error={error} />;
  if (!view) return <Loading what="the calibration" />;
  return (
    <section className="page calibration">
      <h1 className="sentence">{view.outcome?.words ?? heading(view)}</h1>
      {view.take_id !== null && (
        <p className="soft meta">
          From <Link to={`/jobs/${job.id}/takes/${view.take_id}`}>take {view.take_id}</Link>,{" "}
          {view.now?.stage}, {stickName(job.stick)}.{view.remarks.map((said) => ` ${said}`)}
        </p>
      )}
      <Coach jobId={job.id} teaching={view.teaching} open={!job.closed_at} />
      {view.kinds.length > 0 && (
        <Kinds view={view} margin={margin} setMargin={setMargin} wrong={wrong.margin} />
      )}
      {view.kernel && (
        <KernelRange jobId={job.id} takeId={view.take_id ?? 0} kernel={view.kernel} />
      )}
    </section>
  );
}

const heading = (view: View) =>
  view.missing || "What a calibration of this stick would hold, and what it would then read.";

/** How one is carried out; one key begins the routine that learns it in that order. */
function Coach({
  jobId,
  teaching,
  open,
}: {
  jobId: number;
  teaching: View["teaching"];
  open: boolean;
}) {
  const to = `/jobs/${jobId}/prove?routine=${teaching.routine}`;
  return (
    <ol className="calibration-order">
      {teaching.steps.map(({ what, how }) => (
        <li key={what}>
          <strong>{what}.</strong> {how}
        </li>
      ))}
      {open && (
        <li>
          <strong>Measure.</strong> <Link to={to}>Run it in this order here</Link>, by the same
          source, before and after.
        </li>
      )}
    </ol>
  );
}

function Kinds({
  view,
  margin,
  setMargin,
  wrong,
}: {
  view: View;
  margin: string;
  setMargin: (text: string) => void;
  wrong: string | undefined;
}) {
  const [kind, setKind] = useState<Calibration["kind"]>("three-point");
  const chosen = view.kinds.find((k) => k.kind === kind) ?? view.kinds[0];
  if (!chosen) return null;
  return (
    <>
      <div className="calibration-choice">
        <Choose
          label="It holds"
          options={view.kinds.map((k) => [k.kind, k.label] as const)}
          value={chosen.kind}
          onChange={setKind}
          hint={chosen.words}
        />
        <TextField
          size="small"
          label="Outer margin, %"
          value={margin}
          onChange={(e) => setMargin(e.target.value)}
          error={wrong !== undefined}
          helperText={wrong ?? "How much short of its ends counts as full, so that full is sure."}
          slotProps={{ htmlInput: { inputMode: "decimal", maxLength: 6 } }}
        />
      </div>
      <div className="calibration-main">
        <Numbers held={chosen} />
        <Forecasts held={chosen} now={view.now} after={view.after} />
      </div>
    </>
  );
}

/** As it is copied: the numbers of one kind. */
const asJson = (held: Calibration) =>
  JSON.stringify({ kind: held.kind, margin_percent: held.margin, axes: held.axes }, null, 2);

function Numbers({ held }: { held: Calibration }) {
  const [copied, setCopied] = useState("");
  const copy = () =>
    navigator.clipboard
      .writeText(asJson(held))
      .then(() => setCopied("Copied."))
      .catch(() => setCopied("It could not be copied: mark the numbers below instead."));
  useKeys([{ key: "j", shown: "J", does: "copy as JSON", run: copy }]);
  return (
    <div>
      <table className="calibration-numbers">
        <thead>
          <tr>
            <th scope="col">source’s numbers</th>
            {held.axes.map((a) => (
              <th key={a.axis} scope="col">
                {a.axis}
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {ROWS.map(([key, says, digits]) => (
            <tr key={key}>
              <th scope="row">{says}</th>
              {held.axes.map((a) => (
                <td key={a.axis}>{decimal(a[key], digits)}</td>
              ))}
            </tr>
          ))}
        </tbody>
      </table>
      <p className="actions">
        <Button onClick={copy}>
          Copy as JSON <kbd>J</kbd>
        </Button>
        <span role="status" className="soft">
          {copied}
        </span>
      </p>
      <details>
        <summary>The same as JSON</summary>
        <pre className="calibration-json">{asJson(held)}</pre>
      </details>
    </div>
  );
}

const ROWS = [
  ["low", "low end", 1],
  ["centre", "centre", 1],
  ["high", "high end", 1],
  ["offset", "offset of the centre", 1],
  ["scale_low", "scale, low half", 3],
  ["scale_high", "scale, high half", 3],
] as const;
