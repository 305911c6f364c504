import Button from "@mui/material/Button";
import TextField from "@mui/material/TextField";
import { useQuery } from "@tanstack/react-query";
import { useForm } from "react-hook-form";
import { Link, useNavigate } from "react-router";
import { api, data } from "../api/client";
import { inspectionInfoQuery, inspectionsQuery, useChange } from "../api/queries";
import { ofShelf } from "../api/touched";
import { day } from "../app/format";
import { Trouble } from "../app/parts";
import { SelectField } from "../app/Select";

const WHOLE = "whole";

interface Typed {
  lot: string;
  size: string;
  aql: string;
}

/** Lots of a part that were looked at before they were used, and the way to look at another. */
export function Inspections({ part, lots }: { part: number; lots: readonly string[] }) {
  const { data: inspections } = useQuery(inspectionsQuery(part));
  const { data: info } = useQuery(inspectionInfoQuery);
  const navigate = useNavigate();
  const { register, control, handleSubmit, watch } = useForm<Typed>({
    defaultValues: { lot: lots.at(-1) ?? "", size: "", aql: "2.5" },
  });
  const begin = useChange(
    ({ lot, size, aql }: Typed) =>
      data(
        api.POST("/api/parts/{part_id}/inspections", {
          params: { path: { part_id: part } },
          body: { lot, lot_size: Number(size), aql: aql === WHOLE ? null : Number(aql) },
        }),
      ),
    ofShelf,
  );
  return (
    <section className="block" aria-label="Lots looked at">
      <h2>Lots looked at before use</h2>
      {(inspections?.length ?? 0) > 0 && (
        <ul className="rows">
          {inspections?.map((i) => (
            <li key={i.id}>
              <span className="figures soft">{day(i.begun_at)}</span>
              <Link to={`/inspections/${i.id}`}>lot {i.lot}</Link>
              <span className={i.ending && i.ending !== "accepted" ? "over" : ""}>
                {i.ending ? info?.endings[i.ending]?.done : "goes on"}
              </span>
              {i.reason && <span className="soft">{i.reason}</span>}
            </li>
          ))}
        </ul>
      )}
      <form
        className="inline-form"
        onSubmit={handleSubmit((typed) =>
          begin.mutate(typed, { onSuccess: (made) => navigate(`/inspections/${made.id}`) }),
        )}
      >
        <TextField size="small" label="Lot to look at" {...register("lot")} />
        <TextField size="small" label="Size of the lot" inputMode="numeric" {...register("size")} />
        <SelectField
          name="aql"
          control={control}
          size="small"
          label="Bad ones in a hundred, at most"
          options={[
            ...(info?.aqls.map((a) => [String(a), `${a} (AQL)`] as const) ?? []),
            [WHOLE, "look at every one"],
          ]}
        />
        <Button
          type="submit"
          disabled={!watch("lot").trim() || !(Number(watch("size")) >= 1) || begin.isPending}
        >
          Look at it
        </Button>
      </form>
      <Trouble error={begin.error} />
    </section>
  );
}
