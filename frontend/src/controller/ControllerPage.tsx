import Button from "@mui/material/Button";
import MenuItem from "@mui/material/MenuItem";
import TextField from "@mui/material/TextField";
import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { Link, useParams } from "react-router";
import type { Schemas } from "../api/client";
import { lasting } from "../api/problem";
import { historyQuery, useReadingInfo } from "../api/queries";
import { Choose } from "../app/Choose";
import { capital, stickName } from "../app/format";
import { Loading, NotShown, Page } from "../app/parts";
import { NamedPins } from "../bench/Pins";
import { History } from "../plots/History";
import { Visit } from "./Visit";
import "./controller.css";

const PAGE = 20;

/** A controller: how its sticks have read over its visits, and everything on one line of time. */
export function Component() {
  const id = Number(useParams().controllerId);
  const [after, setAfter] = useState(0);
  const { data: history, error } = lasting(
    useQuery({
      ...historyQuery(id, after),
      enabled: Number.isInteger(id) && id > 0,
      placeholderData: keepPreviousData,
    }),
  );
  if (error) return <NotShown title="This controller cannot be shown." error={error} />;
  if (!history) return <Loading what="the controller" />;
  const { controller, visits, more } = history;
  const open = visits.find((v) => v.job.closed_at === null);
  const all = after + visits.length + more;
  return (
    <Page>
      <header className="controller-head">
        <div>
          <h1 className="sentence">
            <span className="figures">{controller.tag}</span> {controller.model.name}
            {controller.refer && <span className="refer-mark">refer</span>}
          </h1>
          <p className="soft">
            {all === 1 ? "One visit" : `${all} visits`} ·{" "}
            {open ? (
              <Link to={`/jobs/${open.job.id}`}>on the bench: job {open.job.id}</Link>
            ) : (
              "not on the bench"
            )}
          </p>
        </div>
        <NamedPins pins={history.pins} />
      </header>
      <Readings sticks={history.sticks} />
      <section className="block" aria-label="Line of time">
        <h2>Everything that happened</h2>
        <ol className="time-line">
          {visits.map((v) => (
            <Visit key={v.job.id} visit={v} />
          ))}
        </ol>
        <p className="actions">
          {after > 0 && (
            <Button onClick={() => setAfter(Math.max(0, after - PAGE))}>Later visits</Button>
          )}
          {more > 0 && <Button onClick={() => setAfter(after + PAGE)}>Earlier visits</Button>}
        </p>
      </section>
    </Page>
  );
}

function Readings({ sticks }: { sticks: readonly Schemas["StickHistory"][] }) {
  const infoOf = useReadingInfo();
  const [name, setName] = useState("");
  const [chosen, setChosen] = useState("");
  const measured = sticks.filter((s) => s.points.length > 0);
  const stick = measured.find((s) => s.stick === name) ?? measured[0];
  if (!stick) return <p className="soft">None of its sticks has been measured yet.</p>;
  const paths = Object.keys(stick.limits).filter((path) =>
    stick.points.some((p) => p.values[path] !== undefined),
  );
  const path = paths.find((p) => p === chosen) ?? stick.telling ?? paths[0];
  const info = path ? infoOf(path) : undefined;
  return (
    <section className="block" aria-label="Readings over its visits">
      <div className="history-choice">
        {measured.length > 1 && (
          <Choose
            label="Stick"
            options={measured.map((s) => [s.stick, capital(stickName(s.stick))] as const)}
            value={stick.stick}
            onChange={setName}
          />
        )}
        <TextField
          select
          label="Reading"
          className="reading-choice"
          value={path ?? ""}
          onChange={(e) => setChosen(e.target.value)}
        >
          {paths.map((p) => (
            <MenuItem key={p} value={p}>
              {infoOf(p)?.label ?? p}
            </MenuItem>
          ))}
        </TextField>
      </div>
      {path && info && <History history={stick} path={path} info={info} />}
    </section>
  );
}
