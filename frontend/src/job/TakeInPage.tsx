import type { Schemas } from "../api/client";
import { capital, moment, stickName } from "../app/format";
import { Page } from "../app/parts";
import { useJobView } from "./JobMat";

export function describeStick(stick: Schemas["ModelStick"]): string {
  const kind = (k: string) => (k === "hall" ? "Hall" : k);
  const sensors = stick.sensors.map(
    (s) =>
      `${s.axis} ${kind(s.kind)}${s.ohms ? ` ${s.ohms / 1000} kΩ` : ""}${s.side ? `, housing ${s.side}` : ""}`,
  );
  const shape = stick.axes === 1 ? "one axis" : `${stick.gate} gate`;
  return `${shape}, ${stick.sprung ? "sprung" : "no spring"}; ${sensors.join("; ")}`;
}

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
            {controller.model.bits} bit, {controller.model.rate_hz} Hz
          </dd>
        </div>
        <div>
          <dt>{controller.model.sticks.length > 1 ? "Sticks" : "Stick"}</dt>
          <dd>
            {controller.model.sticks.map((s) => (
              <span key={s.name} className="entry-text">
                {capital(s.name)}: {describeStick(s)}
              </span>
            ))}
          </dd>
        </div>
      </dl>
    </Page>
  );
}
