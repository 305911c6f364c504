import { useState } from "react";
import type { Schemas } from "../api/client";
import { PhotoDialog } from "../takein/Photos";
import { Entry } from "./Entry";
import { WaitingFor } from "./WaitingFor";
import { WriteEntry } from "./WriteEntry";
import "./ledger.css";

/** Everything that happened, newest first. */
export function Ledger({ view }: { view: Schemas["JobView"] }) {
  const [photo, setPhoto] = useState<Schemas["Photo"] | null>(null);
  const { job } = view;
  const open = job.closed_at === null;
  return (
    <aside className="ledger" aria-label="Ledger">
      <div className="ledger-head">
        <h2>Ledger</h2>
        <a href={`/api/jobs/${job.id}/ledger.csv`} download>
          As a table
        </a>
      </div>
      {open && <WriteEntry key={job.id} jobId={job.id} />}
      {open && <WaitingFor job={job} />}
      <ol>
        {view.ledger.map((entry) => (
          <Entry key={entry.id} entry={entry} view={view} open={open} look={setPhoto} />
        ))}
      </ol>
      <PhotoDialog photo={photo} onClose={() => setPhoto(null)} />
    </aside>
  );
}
