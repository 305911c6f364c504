import type { components } from "./schema";

/** An error the server explained: what, where, and what to do. */
export class Problem extends Error {
  readonly status: number;
  readonly title: string;
  readonly fields: Record<string, string>;

  constructor(body: Partial<components["schemas"]["ProblemDetails"]> | undefined, status: number) {
    super(body?.detail ?? "The server did not answer. Is it still running?");
    this.status = status;
    this.title = body?.title ?? "";
    this.fields = Object.fromEntries((body?.errors ?? []).map((e) => [e.field, e.message]));
  }
}

/** Whether the server answered that it will not; whatever else goes wrong may go right the next time. */
export function refused(error: Error | null): boolean {
  return error instanceof Problem && error.status >= 400 && error.status < 500;
}

/**
 * A query that a page is about. Its error counts where the server refused, or nothing ever came: what
 * came once stays while it cannot be asked for again, and so does what was typed beside it.
 */
export function lasting<Data>({ data, error }: { data: Data; error: Error | null }): {
  data: Data;
  error: Error | null;
} {
  return { data, error: data === undefined || refused(error) ? error : null };
}
