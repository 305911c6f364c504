import Button from "@mui/material/Button";
import TextField from "@mui/material/TextField";
import { useState } from "react";
import { Link } from "react-router";
import { api, data, type Schemas } from "../api/client";
import { useChange } from "../api/queries";
import { moment } from "../app/format";
import { Trouble } from "../app/parts";
import { StageMark, stageRole } from "../plots/stage";

const TITLE: Record<Schemas["LedgerEntry"]["kind"], string> = {
  "take-in": "Take in",
  take: "Take",
  work: "Work",
  caution: "Caution",
  note: "Note",
  close: "Hand over",
};

function Entry({ entry, view }: { entry: Schemas["LedgerEntry"]; view: Schemas["JobView"] }) {
  const take = view.takes.find((t) => t.id === entry.take_id);
  return (
    <li>
      <time dateTime={entry.at} className="figures soft">
        {moment(entry.at)}
      </time>
      <span className="ledger-mark">
        {take ? <StageMark stage={stageRole(take, view.takes)} /> : <i />}
      </span>
      <span>
        <strong>
          {take ? (
            <Link to={`/jobs/${view.job.id}/takes/${take.id}`}>Take {take.id}</Link>
          ) : (
            TITLE[entry.kind]
          )}
        </strong>
        <span className="entry-text">{entry.text}</span>
      </span>
    </li>
  );
}

/** Everything that happened, newest first. */
export function Ledger({ view }: { view: Schemas["JobView"] }) {
  const [text, setText] = useState("");
  const note = useChange((said: string) =>
    data(
      api.POST("/api/jobs/{job_id}/notes", {
        params: { path: { job_id: view.job.id } },
        body: { text: said },
      }),
    ),
  );
  const put = () => note.mutate(text, { onSuccess: () => setText("") });
  return (
    <aside className="ledger" aria-label="Ledger">
      <h2>Ledger</h2>
      {view.job.closed_at === null && (
        <form
          className="note"
          onSubmit={(e) => {
            e.preventDefault();
            put();
          }}
        >
          <TextField
            label="Note"
            multiline
            maxRows={6}
            value={text}
            onChange={(e) => setText(e.target.value)}
          />
          {text.trim() && (
            <Button type="submit" size="small" disabled={note.isPending}>
              Put in the ledger
            </Button>
          )}
          <Trouble error={note.error} />
        </form>
      )}
      <ol>
        {view.ledger.map((entry) => (
          <Entry key={entry.id} entry={entry} view={view} />
        ))}
      </ol>
    </aside>
  );
}
