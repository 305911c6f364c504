import { Link } from "react-router";
import { stickName } from "../app/format";
import { Page, Words } from "../app/parts";
import { StartTake } from "../capture/StartTake";
import { useJobView } from "./JobMat";
import { TakeList } from "./TakeList";

/** Measure, before anything is touched. */
export function ProvePage() {
  const view = useJobView();
  const { job } = view;
  return (
    <Page
      title={`Measure the ${stickName(job.stick)} of ${job.controller.tag}, ${view.next_stage}.`}
    >
      {job.complaint && (
        <blockquote className="complaint">
          <Words text={job.complaint} />
        </blockquote>
      )}
      {job.closed_at ? (
        <p className="soft">The job is closed. Open it again under Hand over to take more.</p>
      ) : (
        <StartTake view={view} />
      )}
      <TakeList view={view} />
      {view.reference && (
        <p>
          <Link to={`/jobs/${job.id}/sticks`}>Both sticks on one axis</Link>
        </p>
      )}
    </Page>
  );
}
