import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { Link } from "react-router";
import type { Schemas } from "../api/client";
import { catalogueQuery } from "../api/queries";
import { day, moment, stickName } from "../app/format";
import { Words } from "../app/parts";
import { TITLE } from "../ledger/Entry";
import { PhotoDialog, Thumb } from "../takein/Photos";
import "./controller.css";

type Entry = Schemas["LedgerEntry"];

const MOST_ENTRIES = 6;

/** One visit on the line of time: why it came, what was done, how it left. */
export function Visit({ visit }: { visit: Schemas["Visit"] }) {
  const { job, ledger, photos } = visit;
  const { data: catalogue } = useQuery(catalogueQuery);
  const [all, setAll] = useState(false);
  const [photo, setPhoto] = useState<Schemas["Photo"] | null>(null);
  const entries = ledger.filter((e) => e.undone_at === null).reverse();
  const listed = all ? entries : entries.slice(0, MOST_ENTRIES);
  return (
    <li className="visit">
      <h3>
        <Link to={`/jobs/${job.id}`}>
          {day(job.opened_at)}
          {job.closed_at &&
            day(job.closed_at) !== day(job.opened_at) &&
            ` to ${day(job.closed_at)}`}
        </Link>{" "}
        <span className="soft">
          {stickName(job.stick)} ·{" "}
          {job.ended ? catalogue?.take_in.ended[job.ended] : `next: ${visit.next}`}
        </span>
      </h3>
      <ol className="visit-entries">
        {listed.map((e) => (
          <li key={e.id}>
            <time dateTime={e.at} className="figures soft">
              {moment(e.at)}
            </time>
            <What entry={e} />
            <span>
              <Words text={e.text} />
              {photos
                .filter((p) => p.id === e.photo_id)
                .map((p) => (
                  <Thumb key={p.id} photo={p} open={() => setPhoto(p)} />
                ))}
            </span>
          </li>
        ))}
      </ol>
      {entries.length > MOST_ENTRIES && (
        <button type="button" className="plain link" onClick={() => setAll(!all)}>
          {all ? "Less" : `${entries.length - MOST_ENTRIES} more`}
        </button>
      )}
      <PhotoDialog photo={photo} onClose={() => setPhoto(null)} />
    </li>
  );
}

function What({ entry }: { entry: Entry }) {
  return (
    <strong>
      {entry.take_id === null ? (
        TITLE[entry.kind]
      ) : (
        <Link to={`/jobs/${entry.job_id}/takes/${entry.take_id}`}>Take {entry.take_id}</Link>
      )}
    </strong>
  );
}
