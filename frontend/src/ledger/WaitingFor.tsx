import MenuItem from "@mui/material/MenuItem";
import TextField from "@mui/material/TextField";
import { useQuery } from "@tanstack/react-query";
import { api, data, type Schemas } from "../api/client";
import { catalogueQuery, useChange } from "../api/queries";
import { ofJob } from "../api/touched";
import { Trouble } from "../app/parts";
import "./ledger.css";

type Waiting = Schemas["Job"]["waiting"];

/** What the job waits for. */
export function WaitingFor({ job }: { job: Schemas["Job"] }) {
  const { data: catalogue } = useQuery(catalogueQuery);
  const wait = useChange(
    (waiting: Waiting) =>
      data(
        api.PUT("/api/jobs/{job_id}/waiting", {
          params: { path: { job_id: job.id } },
          body: { waiting, text: "" },
        }),
      ),
    ofJob(job.id),
  );
  const named = Object.entries(catalogue?.take_in.waiting ?? { "": "" }) as [Waiting, string][];
  return (
    <>
      <TextField
        select
        label="Waits for"
        className="waiting"
        value={named.some(([key]) => key === job.waiting) ? job.waiting : ""}
        onChange={(e) => wait.mutate(e.target.value as Waiting)}
        slotProps={{ select: { displayEmpty: true }, inputLabel: { shrink: true } }}
      >
        {named.map(([key, said]) => (
          <MenuItem key={key} value={key}>
            {key ? said : "nothing"}
          </MenuItem>
        ))}
      </TextField>
      <Trouble error={wait.error} />
    </>
  );
}
