import { moment, stickName } from "../app/format";
import { Page } from "../app/parts";
import { useJobView } from "./JobMat";

/** What was said when the controller came. */
export function TakeInPage() {
  const { job } = useJobView();
  const { controller } = job;
  return (
    <Page title={`${controller.tag} ${controller.model.name}, ${stickName(job.stick)}`}>
      <blockquote className="complaint">
        {job.complaint || "Nothing was said about what is wrong."}
      </blockquote>
      <dl className="facts">
        <div>
          <dt>Taken in</dt>
          <dd>{moment(job.opened_at)}</dd>
        </div>
        <div>
          <dt>Model</dt>
          <dd>{controller.model.note}</dd>
        </div>
        <div>
          <dt>Converter</dt>
          <dd>
            {controller.model.bits} bit, {controller.model.rate_hz} Hz, {controller.model.gate} gate
          </dd>
        </div>
      </dl>
    </Page>
  );
}
