import Button from "@mui/material/Button";
import TextField from "@mui/material/TextField";
import { useState } from "react";
import { api, data, type Schemas } from "../api/client";
import { useChange } from "../api/queries";
import { ofJob } from "../api/touched";
import { Choose } from "../app/Choose";
import { Trouble } from "../app/parts";
import "./ledger.css";

type Kind = Schemas["NewEntry"]["kind"];

const KINDS: readonly (readonly [Kind, string])[] = [
  ["note", "Note"],
  ["owner", "Owner said"],
  ["part", "Part"],
];

/** Something put in the ledger by hand. */
export function WriteEntry({ jobId }: { jobId: number }) {
  const [text, setText] = useState("");
  const [kind, setKind] = useState<Kind>("note");
  const write = useChange(
    () =>
      data(
        api.POST("/api/jobs/{job_id}/entries", {
          params: { path: { job_id: jobId } },
          body: { kind, text },
        }),
      ),
    ofJob(jobId),
  );
  const put = () => {
    if (text.trim() && !write.isPending) {
      write.mutate(undefined, {
        onSuccess: () => {
          // What was typed while it was on its way stays.
          setText((now) => (now === text ? "" : now));
          setKind("note");
        },
      });
    }
  };
  return (
    <form
      className="note"
      onSubmit={(e) => {
        e.preventDefault();
        put();
      }}
    >
      <TextField
        label="Note for the ledger"
        multiline
        maxRows={6}
        value={text}
        onChange={(e) => setText(e.target.value)}
        onKeyDown={(e) => {
          if (e.key === "Enter" && e.ctrlKey) {
            e.preventDefault();
            put();
          }
        }}
      />
      {text.trim() && (
        <>
          <Choose label="As" options={KINDS} value={kind} onChange={setKind} />
          <Button type="submit" size="small" disabled={write.isPending}>
            Put in the ledger
          </Button>
        </>
      )}
      <Trouble error={write.error} />
    </form>
  );
}
