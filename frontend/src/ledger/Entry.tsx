import Button from "@mui/material/Button";
import TextField from "@mui/material/TextField";
import { useRef, useState } from "react";
import { Link } from "react-router";
import { api, data, type Schemas } from "../api/client";
import { Problem } from "../api/problem";
import { useChange } from "../api/queries";
import { ofJob, ofJobAndShelf } from "../api/touched";
import { moment } from "../app/format";
import { Trouble, Words } from "../app/parts";
import { StageMark } from "../plots/stage";
import { Thumb } from "../takein/Photos";
import "./ledger.css";

type LedgerEntry = Schemas["LedgerEntry"];

export const TITLE: Record<LedgerEntry["kind"], string> = {
  "take-in": "Take in",
  check: "Function check",
  take: "Take",
  decision: "Decision",
  work: "Work",
  caution: "Caution",
  note: "Note",
  owner: "Owner said",
  part: "Part",
  waiting: "Waiting",
  photo: "Photo",
  close: "Hand over",
  timer: "Timer",
  opening: "Shell",
  play: "Play test",
};

/** Kinds that are taken back elsewhere: by opening the job again, with their work. */
const STAYS = new Set<LedgerEntry["kind"]>(["close", "caution"]);

interface Props {
  entry: LedgerEntry;
  view: Schemas["JobView"];
  open: boolean;
  look: (photo: Schemas["Photo"]) => void;
}

/** One entry: what, when, by which bench role; how it read before; and the way to put it right. */
export function Entry({ entry, view, open, look }: Props) {
  const [correcting, setCorrecting] = useState(false);
  const take = view.takes.find((t) => t.id === entry.take_id);
  const photo = view.photos.find((p) => p.id === entry.photo_id);
  return (
    <li className={entry.undone_at ? "undone" : ""}>
      <time dateTime={entry.at} className="figures soft">
        {moment(entry.at)}
      </time>
      <span className="ledger-mark">{take ? <StageMark stage={take.mark} /> : <i />}</span>
      <div className="entry">
        <div className="entry-head">
          <strong>
            <Title entry={entry} jobId={view.job.id} />
          </strong>
          {open && !correcting && <Mend entry={entry} correct={() => setCorrecting(true)} />}
        </div>
        {entry.role && <span className="soft entry-role">{entry.role}</span>}
        {photo && <Thumb photo={photo} open={() => look(photo)} />}
        {correcting ? (
          <Correct entry={entry} done={() => setCorrecting(false)} />
        ) : (
          <Words text={entry.text} className="entry-text" />
        )}
        {entry.undone_at && <span className="soft">Undone {moment(entry.undone_at)}.</span>}
        {entry.before.length > 0 && (
          <details className="entry-before">
            <summary>How it read before</summary>
            {entry.before.map((w) => (
              <p key={w.until}>
                <Words text={w.text} />
                <span className="soft">
                  {" "}
                  until {moment(w.until)}
                  {w.role && `, ${w.role}`}
                </span>
              </p>
            ))}
          </details>
        )}
      </div>
    </li>
  );
}

function Title({ entry, jobId }: { entry: LedgerEntry; jobId: number }) {
  if (entry.take_id !== null) {
    return <Link to={`/jobs/${jobId}/takes/${entry.take_id}`}>Take {entry.take_id}</Link>;
  }
  if (entry.check_id !== null) {
    return <Link to={`/jobs/${jobId}/check?check=${entry.check_id}`}>Function check</Link>;
  }
  return TITLE[entry.kind];
}

/** Correct, undo, put back. */
function Mend({ entry, correct }: { entry: LedgerEntry; correct: () => void }) {
  const undo = useChange(
    (back: boolean) =>
      data(
        api.POST("/api/entries/{entry_id}/undo", {
          params: { path: { entry_id: entry.id } },
          body: { revision: entry.revision, back },
        }),
      ),
    ofJobAndShelf(entry.job_id),
  );
  const named = `${TITLE[entry.kind]}, ${moment(entry.at)}`;
  return (
    <>
      <span className="mend">
        {!entry.undone_at && (
          <button
            type="button"
            className="plain link"
            aria-label={`Correct: ${named}`}
            onClick={correct}
          >
            Correct
          </button>
        )}
        {!STAYS.has(entry.kind) && (
          <button
            type="button"
            className="plain link"
            aria-label={`${entry.undone_at ? "Put back" : "Undo"}: ${named}`}
            disabled={undo.isPending}
            onClick={() => undo.mutate(entry.undone_at !== null)}
          >
            {entry.undone_at ? "Put back" : "Undo"}
          </button>
        )}
      </span>
      <Trouble error={undo.error} />
    </>
  );
}

/** Other words for an entry; the old ones stay beside it. */
function Correct({ entry, done }: { entry: LedgerEntry; done: () => void }) {
  const [text, setText] = useState(entry.text);
  const lastRevision = useRef(entry.revision);
  const correct = useChange(
    () =>
      data(
        api.PUT("/api/entries/{entry_id}", {
          params: { path: { entry_id: entry.id } },
          body: { text, revision: lastRevision.current },
        }),
      ),
    ofJob(entry.job_id),
  );
  const stale = correct.error instanceof Problem && correct.error.title === "Changed meanwhile";
  return (
    <form
      className="note"
      onSubmit={(e) => {
        e.preventDefault();
        if (stale) lastRevision.current = entry.revision;
        correct.mutate(undefined, { onSuccess: done });
      }}
    >
      <TextField
        label="In other words"
        multiline
        maxRows={10}
        autoFocus
        value={text}
        onChange={(e) => setText(e.target.value)}
        onKeyDown={(e) => e.key === "Escape" && done()}
      />
      <Trouble error={correct.error} />
      <span className="actions">
        <Button type="submit" size="small" disabled={correct.isPending}>
          {stale ? "Put mine in its place" : "Keep"}
        </Button>
        <Button size="small" onClick={done}>
          Leave it
        </Button>
      </span>
    </form>
  );
}
