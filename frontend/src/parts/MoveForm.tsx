import Button from "@mui/material/Button";
import MenuItem from "@mui/material/MenuItem";
import TextField from "@mui/material/TextField";
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { api, data, Problem, type Schemas } from "../api/client";
import { partKindsQuery, trayQuery, useChange } from "../api/queries";
import { ofShelf } from "../api/touched";
import { Trouble } from "../app/parts";

type Kind = Schemas["MoveBody"]["kind"];

/** Move parts: which way, how many, of which lot, for which job, and why where that is asked. */
export function MoveForm({ part, lots }: { part: Schemas["ShelfPart"]; lots: readonly string[] }) {
  const { data: info } = useQuery(partKindsQuery);
  const { data: tray } = useQuery(trayQuery);
  const [kind, setKind] = useState<Kind>("received");
  const [count, setCount] = useState("1");
  const [lot, setLot] = useState("");
  const [job, setJob] = useState("");
  const [reason, setReason] = useState("");
  const way = info?.movements.find((m) => m.code === kind);
  const move = useChange(
    () =>
      data(
        api.POST("/api/parts/{part_id}/movements", {
          params: { path: { part_id: part.id } },
          body: {
            kind,
            count: (/^[-−]?\d+$/.test(count.trim())
              ? Number(count.replace("−", "-"))
              : count) as number,
            lot,
            job_id: job ? Number(job) : null,
            reason,
          },
        }),
      ),
    ofShelf,
  );
  const wrong = move.error instanceof Problem ? move.error.fields : {};
  const told = (key: string, help = "") => ({
    error: wrong[key] !== undefined,
    helperText: wrong[key] ?? help,
  });
  const open = (tray ?? []).filter((s) => s.station !== "closed");
  return (
    <form
      className="move-form"
      onSubmit={(e) => {
        e.preventDefault();
        move.mutate(undefined, {
          onSuccess: () => {
            setCount("1");
            setReason("");
          },
        });
      }}
    >
      <TextField
        select
        size="small"
        label="Move"
        value={kind}
        onChange={(e) => setKind(e.target.value as Kind)}
      >
        {info?.movements.map((m) => (
          <MenuItem key={m.code} value={m.code}>
            {m.label}
          </MenuItem>
        ))}
      </TextField>
      <TextField
        size="small"
        label="How many"
        value={count}
        onChange={(e) => setCount(e.target.value)}
        slotProps={{ htmlInput: { inputMode: "numeric", maxLength: 7 } }}
        {...told("count", kind === "counted" ? "−2 where two are missing" : "")}
      />
      {way?.hand !== 0 && (
        <TextField
          size="small"
          label="Lot"
          value={lot}
          onChange={(e) => setLot(e.target.value)}
          slotProps={{ htmlInput: { list: "lots-known", maxLength: 120 } }}
        />
      )}
      <datalist id="lots-known">
        {lots.map((known) => (
          <option key={known} value={known} />
        ))}
      </datalist>
      {way?.hand !== 1 && (
        <TextField
          select
          size="small"
          label={way?.job ? "For job" : "For job, if any"}
          value={job}
          onChange={(e) => setJob(e.target.value)}
          {...told("job_id")}
        >
          <MenuItem value="">none</MenuItem>
          {open.map((s) => (
            <MenuItem key={s.job_id} value={String(s.job_id)}>
              {s.tag}, job {s.job_id}
            </MenuItem>
          ))}
        </TextField>
      )}
      {way?.why && (
        <TextField
          size="small"
          label="Why"
          value={reason}
          onChange={(e) => setReason(e.target.value)}
          {...told("reason")}
        />
      )}
      <Button type="submit" variant="contained" disabled={move.isPending}>
        Put down
      </Button>
      {move.error && Object.keys(wrong).length === 0 && <Trouble error={move.error} />}
    </form>
  );
}
