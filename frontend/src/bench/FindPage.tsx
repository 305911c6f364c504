import Button from "@mui/material/Button";
import MenuItem from "@mui/material/MenuItem";
import TextField from "@mui/material/TextField";
import { useInfiniteQuery, useQuery } from "@tanstack/react-query";
import { Link, useSearchParams } from "react-router";
import type { Schemas } from "../api/client";
import {
  catalogueQuery,
  foundQuery,
  type JobFilter,
  modelsQuery,
  openStations,
} from "../api/queries";
import { day, stickName } from "../app/format";
import { Page, Trouble, Words } from "../app/parts";
import { Pins } from "./Pins";
import "./bench.css";

function wantedFrom(search: URLSearchParams): JobFilter {
  const get = (key: string) => search.get(key) ?? undefined;
  const station = get("station");
  const waiting = get("waiting");
  const model = get("model");
  const which = get("which");
  return {
    text: get("text") ?? "",
    ...(station ? { station: station as JobFilter["station"] } : {}),
    ...(waiting ? { waiting: waiting as JobFilter["waiting"] } : {}),
    ...(model ? { model_id: model } : {}),
    ...(which === "open" || which === "closed" ? { opened: which === "open" } : {}),
    ...(which === "refer" ? { refer: true } : {}),
  };
}

/** Every job there ever was, by words, model, station and what it waits for. */
export function Component() {
  const [search, setSearch] = useSearchParams();
  const { data: models } = useQuery(modelsQuery);
  const { data: catalogue } = useQuery(catalogueQuery);
  const results = useInfiniteQuery(foundQuery(wantedFrom(search)));
  const strips = results.data?.pages.flatMap((p) => p.strips) ?? [];
  const count = results.data?.pages[0]?.count;
  const set = (key: string, value: string) =>
    setSearch(
      (now) => {
        const next = new URLSearchParams(now);
        if (value) next.set(key, value);
        else next.delete(key);
        return next;
      },
      { replace: true },
    );
  const select = (key: string, label: string, options: [string, string][]) => (
    <TextField
      select
      label={label}
      value={search.get(key) ?? ""}
      onChange={(e) => set(key, e.target.value)}
      slotProps={{ select: { displayEmpty: true }, inputLabel: { shrink: true } }}
    >
      <MenuItem value="">Any</MenuItem>
      {options.map(([value, said]) => (
        <MenuItem key={value} value={value}>
          {said}
        </MenuItem>
      ))}
    </TextField>
  );
  const waits = Object.entries(catalogue?.take_in.waiting ?? {}).filter(([key]) => key);
  return (
    <Page
      title={count === undefined ? "Looking…" : count === 1 ? "One job." : `${count || "No"} jobs.`}
    >
      <div className="find-fields">
        <TextField
          label="Words"
          type="search"
          value={search.get("text") ?? ""}
          slotProps={{ htmlInput: { maxLength: 200 } }}
          onChange={(e) => set("text", e.target.value)}
        />
        {select("model", "Model", models?.map((m) => [m.id, m.name]) ?? [])}
        {select(
          "station",
          "Next",
          openStations(catalogue).map((s) => [s.station, s.label]),
        )}
        {select("waiting", "Waits for", [["any", "Anything"], ...waits])}
        {select("which", "Which", [
          ["open", "On the bench"],
          ["closed", "Closed"],
          ["refer", "Refer"],
        ])}
      </div>
      <Trouble error={results.error} />
      {count === 0 && (
        <p className="soft">
          Nothing has all of these words. They are looked for in tags, complaints and the ledger.
        </p>
      )}
      <ul className="found">
        {strips.map((s) => (
          <Row key={s.job_id} strip={s} waiting={catalogue?.take_in.waiting} />
        ))}
      </ul>
      {results.hasNextPage && (
        <p>
          <Button onClick={() => results.fetchNextPage()} disabled={results.isFetchingNextPage}>
            Show more
          </Button>
        </p>
      )}
    </Page>
  );
}

function Row({
  strip,
  waiting,
}: {
  strip: Schemas["Strip"];
  waiting: Record<string, string> | undefined;
}) {
  const { pins, ...job } = strip;
  return (
    <li>
      <span className="found-tag">
        <Link to={`/jobs/${job.job_id}/${job.place}`} className="figures">
          {job.tag}
        </Link>{" "}
        {job.model}
        {job.refer && <span className="refer-mark">refer</span>}
      </span>
      <Words text={job.complaint} className="found-words" />
      <span className="soft">
        {job.next} · {stickName(job.stick)}
        {job.waiting && ` · waits for ${waiting?.[job.waiting] ?? job.waiting}`}
      </span>
      <span className="figures soft">{day(job.opened_at)}</span>
      <Pins pins={pins} />
    </li>
  );
}
