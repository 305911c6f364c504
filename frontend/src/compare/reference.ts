import type { Schemas } from "../api/client";

type Take = Schemas["Take"];

/** The newest usable take of the job's stick, and of another one, where there are both. */
export function newestOfEach(view: Schemas["JobView"]): { own: Take; reference: Take } | null {
  const usable = view.takes.filter((t) => t.usable);
  const own = usable.filter((t) => t.stick === view.job.stick).at(-1);
  const reference = usable.filter((t) => t.stick !== view.job.stick).at(-1);
  return own && reference ? { own, reference } : null;
}
