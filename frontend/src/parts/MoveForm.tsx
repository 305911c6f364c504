import Button from "@mui/material/Button";
import MenuItem from "@mui/material/MenuItem";
import TextField from "@mui/material/TextField";
import { useQuery } from "@tanstack/react-query";
import { Controller, useForm } from "react-hook-form";
import { api, data, type Schemas } from "../api/client";
import { partKindsQuery, trayQuery, useChange } from "../api/queries";
import { ofShelf } from "../api/touched";
import { fieldErrorsOf } from "../app/fieldErrors";
import { Trouble } from "../app/parts";

interface Typed {
  kind: Schemas["MoveBody"]["kind"];
  count: string;
  lot: string;
  job: string;
  reason: string;
}

/** A whole number as it is typed, with either minus; what is none is left to the server to say. */
const whole = (typed: string) =>
  (/^[-−]?\d+$/.test(typed.trim()) ? Number(typed.replace("−", "-")) : typed) as number;

/** Move parts: which way, how many, of which lot, for which job, and why where that is asked. */
export function MoveForm({ part, lots }: { part: Schemas["ShelfPart"]; lots: readonly string[] }) {
  const { data: info } = useQuery(partKindsQuery);
  const { data: tray } = useQuery(trayQuery);
  const { register, control, handleSubmit, watch, setValue } = useForm<Typed>({
    defaultValues: { kind: "received", count: "1", lot: "", job: "", reason: "" },
  });
  const kind = watch("kind");
  const way = info?.movements.find((m) => m.code === kind);
  const move = useChange(
    (typed: Typed) =>
      data(
        api.POST("/api/parts/{part_id}/movements", {
          params: { path: { part_id: part.id } },
          body: {
            kind: typed.kind,
            count: whole(typed.count),
            lot: typed.lot,
            job_id: typed.job ? Number(typed.job) : null,
            reason: typed.reason,
          },
        }),
      ),
    ofShelf,
  );
  const fieldErrors = fieldErrorsOf(move.error);
  const open = (tray ?? []).filter((s) => s.station !== "closed");
  return (
    <form
      className="move-form"
      onSubmit={handleSubmit((typed) =>
        move.mutate(typed, {
          onSuccess: () => {
            setValue("count", "1");
            setValue("reason", "");
          },
        }),
      )}
    >
      <Controller
        name="kind"
        control={control}
        render={({ field }) => (
          <TextField select size="small" label="Move" {...field}>
            {info?.movements.map((m) => (
              <MenuItem key={m.code} value={m.code}>
                {m.label}
              </MenuItem>
            ))}
          </TextField>
        )}
      />
      <TextField
        size="small"
        label="How many"
        {...register("count")}
        slotProps={{ htmlInput: { inputMode: "numeric", maxLength: 7 } }}
        {...fieldErrors.of("count", kind === "counted" ? "−2 where two are missing" : "")}
      />
      {way?.hand !== 0 && (
        <TextField
          size="small"
          label="Lot"
          {...register("lot")}
          slotProps={{ htmlInput: { list: "lots-known", maxLength: 120 } }}
        />
      )}
      <datalist id="lots-known">
        {lots.map((known) => (
          <option key={known} value={known} />
        ))}
      </datalist>
      {way?.hand !== 1 && (
        <Controller
          name="job"
          control={control}
          render={({ field }) => (
            <TextField
              select
              size="small"
              label={way?.job ? "For job" : "For job, if any"}
              {...field}
              {...fieldErrors.of("job_id")}
            >
              <MenuItem value="">none</MenuItem>
              {open.map((s) => (
                <MenuItem key={s.job_id} value={String(s.job_id)}>
                  {s.tag}
                </MenuItem>
              ))}
            </TextField>
          )}
        />
      )}
      {way?.why && (
        <TextField size="small" label="Why" {...register("reason")} {...fieldErrors.of("reason")} />
      )}
      <Button type="submit" variant="contained" disabled={move.isPending}>
        Record it
      </Button>
      <Trouble error={fieldErrors.whole} />
    </form>
  );
}
