import { Link } from "react-router";
import type { Schemas } from "../api/client";
import { moment, stickName } from "../app/format";
import { Page } from "../app/parts";
import { IntakeForm } from "../takein/IntakeForm";
import { Photos } from "../takein/Photos";
import { useJobView } from "./JobMat";
import "./job.css";

/** What was said when the controller came, and how it was found. */
export function TakeInPage() {
  const view = useJobView();
  const { job } = view;
  const { controller } = job;
  return (
    <Page title={`${controller.tag} ${controller.model.name}, ${stickName(job.stick)}`}>
      <p className="meta soft take-in-links">
        <span>Came {moment(job.opened_at)}.</span>
        <Link to={`/controllers/${controller.id}`}>Its whole history</Link>
        <Link to={`/jobs/${job.id}/label`}>Label and bench card</Link>
        <Link to={`/models/${controller.model.id}`}>{controller.model.name} model sheet</Link>
      </p>
      <IntakeForm key={job.id} view={view} />
      <div className="take-in-below">
        <Checks view={view} />
        <Photos view={view} />
      </div>
    </Page>
  );
}

/** How everything else worked when it came, in a sentence; and the way to check it. */
export function Checks({ view, final }: { view: Schemas["JobView"]; final?: boolean }) {
  const kind = final ? "final" : "take-in";
  const last = view.checks.filter((c) => c.kind === kind && c.result).at(-1);
  const address = (id?: number) =>
    `/jobs/${view.job.id}/check?kind=${kind}${id ? `&check=${id}` : ""}`;
  return (
    <section className="block" aria-label="Function check">
      <h2>{final ? "Function check before it goes" : "Function check"}</h2>
      <p>{last?.result?.sentence ?? "Buttons, triggers and the rest have not been tried yet."}</p>
      <p className="actions">
        {last && <Link to={address(last.id)}>Look at it</Link>}
        {view.job.closed_at === null && (
          <Link to={address()}>{last ? "Check again" : "Check every button"}</Link>
        )}
      </p>
    </section>
  );
}
