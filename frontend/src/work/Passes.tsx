import Button from "@mui/material/Button";
import { useQuery } from "@tanstack/react-query";
import { Link } from "react-router";
import type { Schemas } from "../api/client";
import { passesQuery } from "../api/queries";
import { stickName } from "../app/format";
import "./work.css";

type Stick = Schemas["PassesView"];

/** What was done in passes, what was measured between them, and whether another is worth it. asked:
 * whether the page asks for a measurement already. */
export function Passes({ jobId, asked = false }: { jobId: number; asked?: boolean }) {
  const { data: sticks } = useQuery(passesQuery(jobId));
  return sticks?.map((s) => <OfStick key={s.stick} jobId={jobId} of={s} asked={asked} />);
}

function OfStick({ jobId, of, asked }: { jobId: number; of: Stick; asked: boolean }) {
  const measure = new URLSearchParams({ shell: "open", stick: of.stick });
  if (of.quick) measure.set("routine", "quick");
  const again = new URLSearchParams({ kind: of.kind, stick: of.stick });
  return (
    <section className="block" aria-label={`Pass by pass, ${stickName(of.stick)}`}>
      <h2>
        Pass by pass: {of.words}, {stickName(of.stick)}
      </h2>
      <ol className="rows">
        {of.passes.map((p, i) => (
          <li key={p.work}>
            <span>
              <span className="figures soft">{i + 1}</span> {p.words}{" "}
              {p.before !== null && p.after !== null ? (
                <Link to={`/jobs/${jobId}/verify?before=${p.before}&after=${p.after}`}>
                  {p.sentence}
                </Link>
              ) : (
                <span className="soft">
                  {p.after === null ? "Not measured after it." : "Not measured before it."}
                </span>
              )}
            </span>
          </li>
        ))}
      </ol>
      <p className="lead" role="status">
        {of.advice.says}
      </p>
      {!(asked && of.advice.measure) && (
        <p className="actions">
          {of.advice.measure ? (
            <Button component={Link} to={`/jobs/${jobId}/prove?${measure}`} variant="outlined">
              Measure before the next pass
            </Button>
          ) : (
            <Link to={`/jobs/${jobId}/work?${again}`}>Another pass</Link>
          )}
        </p>
      )}
    </section>
  );
}
