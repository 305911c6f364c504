import type { Schemas } from "../api/client";

type Take = Schemas["Take"];

/** The first and the last usable take of the job's stick, where there are two. */
export function firstAndLast(view: Schemas["JobView"]): { before: Take; after: Take } | null {
  const takes = view.takes.filter((t) => t.stick === view.job.stick && t.usable);
  const before = takes[0];
  const after = takes.at(-1);
  return before && after && before.id !== after.id ? { before, after } : null;
}

/** Whether work was done after the last usable take of the job's stick. */
export function waitsForTake(view: Schemas["JobView"]): boolean {
  const last = view.takes.filter((t) => t.stick === view.job.stick && t.usable).at(-1);
  const done = view.work.at(-1);
  return !!done && (!last || done.done_at > last.started_at);
}
