import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useEffect, useRef, useState } from "react";
import { Link } from "react-router";
import { api, data, type Schemas } from "../api/client";
import { timersQuery } from "../api/queries";
import { tone } from "../capture/tone";
import { clock } from "./clock";
import "./work.css";

type BenchTimer = Schemas["BenchTimer"];

const named = ({ tag, timer }: BenchTimer) => `${tag}: ${timer.label}`;

/** What the bench waits for: the next to end, how many more, and what ended just now. Of several windows
 * one sounds, once. */
export function RailTimers() {
  const { data: timers } = useQuery(timersQuery);
  const queries = useQueryClient();
  const [now, setNow] = useState(Date.now());
  const [over, setOver] = useState<BenchTimer | null>(null);
  const telling = useRef(new Set<number>());
  const any = (timers?.length ?? 0) > 0;
  useEffect(() => {
    if (!any) return;
    setNow(Date.now());
    const every = setInterval(() => setNow(Date.now()), 500);
    return () => clearInterval(every);
  }, [any]);
  const finished = timers?.filter((t) => Date.parse(t.timer.ends_at) <= now) ?? [];
  const first = finished[0];
  useEffect(() => {
    if (!first || telling.current.has(first.timer.id)) return;
    telling.current.add(first.timer.id);
    data(
      api.POST("/api/timers/{timer_id}/heard", { params: { path: { timer_id: first.timer.id } } }),
    )
      .then((mine) => {
        if (!mine) return;
        tone("done");
        setOver(first);
      })
      .catch(() => telling.current.delete(first.timer.id))
      .finally(() => queries.invalidateQueries({ queryKey: timersQuery.queryKey }));
  }, [first, queries]);
  const running = timers?.filter((t) => Date.parse(t.timer.ends_at) > now) ?? [];
  const next = running[0];
  if (over) {
    return (
      <span aria-live="assertive" className="near rail-over">
        <Link to={`/jobs/${over.timer.job_id}/work`} onClick={() => setOver(null)}>
          {named(over)} is over
        </Link>
      </span>
    );
  }
  if (!next) return null;
  return (
    <Link
      to={`/jobs/${next.timer.job_id}/work`}
      className="rail-timer"
      title={running.map(named).join(", ")}
    >
      {named(next)}{" "}
      <span className="figures">{clock((Date.parse(next.timer.ends_at) - now) / 1000)}</span>
      {running.length > 1 && ` +${running.length - 1}`}
    </Link>
  );
}
