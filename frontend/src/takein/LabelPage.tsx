import Button from "@mui/material/Button";
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import type { Schemas } from "../api/client";
import { catalogueQuery } from "../api/queries";
import { Choose } from "../app/Choose";
import { date, stickName } from "../app/format";
import { Page, Words } from "../app/parts";
import { useJobView } from "../job/JobMat";
import "./takein.css";

type Sheet = "label" | "card";

/** The label for the controller and the card that lies beside it, to be printed. */
export function Component() {
  const view = useJobView();
  const [sheet, setSheet] = useState<Sheet>("label");
  return (
    <Page title={sheet === "label" ? "A label for the controller." : "A card to lie beside it."}>
      <div className="actions not-printed">
        <Choose
          label="What to print"
          options={[
            ["label", "Label, 62 × 29 mm"],
            ["card", "Bench card, A6"],
          ]}
          value={sheet}
          onChange={setSheet}
        />
        <Button variant="contained" onClick={() => window.print()}>
          Print
        </Button>
      </div>
      {sheet === "label" ? <Label view={view} /> : <Card view={view} />}
      <p className="soft not-printed">
        The code holds this job’s address. Scanned into the tag field or the search box, it opens
        the job.
      </p>
    </Page>
  );
}

function Code({ job }: { job: Schemas["Job"] }) {
  const origin = encodeURIComponent(window.location.origin);
  return (
    <img
      className="code"
      src={`/api/jobs/${job.id}/code.svg?origin=${origin}`}
      alt={`Code of ${window.location.origin}/jobs/${job.id}`}
    />
  );
}

function Label({ view }: { view: Schemas["JobView"] }) {
  const { job } = view;
  return (
    <article className="print-label" aria-label="Label">
      <Code job={job} />
      <div>
        <strong className="figures label-tag">{job.controller.tag}</strong>
        <span>
          {job.controller.model.name}, {stickName(job.stick)}
        </span>
        <span className="figures">
          {date(job.opened_at)} · job {job.id}
        </span>
        {job.intake.promised_on && <span>for {date(job.intake.promised_on)}</span>}
        {job.controller.refer && (
          <strong className="label-refer">Refer: not to be signed off</strong>
        )}
      </div>
    </article>
  );
}

function Card({ view }: { view: Schemas["JobView"] }) {
  const { job } = view;
  const { data: catalogue } = useQuery(catalogueQuery);
  const cautions = new Map(
    catalogue?.remedies.flatMap((r) => r.cautions.map((c) => [c.code, c.text] as const)),
  );
  return (
    <article className="print-card" aria-label="Bench card">
      <header>
        <div>
          <strong className="figures label-tag">{job.controller.tag}</strong>
          <span>
            {job.controller.model.name}, {stickName(job.stick)} · {date(job.opened_at)} · job{" "}
            {job.id}
          </span>
        </div>
        <Code job={job} />
      </header>
      {job.controller.refer && (
        <p className="refer-note">
          <strong>Refer.</strong> {catalogue?.take_in.refer}
        </p>
      )}
      <blockquote className="complaint">
        <Words text={job.complaint || "Nothing was said about what is wrong."} whole />
      </blockquote>
      {view.answers.length > 0 && (
        <dl>
          {view.answers.map(({ label, words }) => (
            <div key={label}>
              <dt>{label}</dt>
              <dd>
                <Words text={words} whole />
              </dd>
            </div>
          ))}
        </dl>
      )}
      <h2>Cautions</h2>
      <ul>
        {[...cautions].map(([code, text]) => (
          <li key={code}>{text}</li>
        ))}
      </ul>
      <p>Local rules and licensed people come first.</p>
    </article>
  );
}
