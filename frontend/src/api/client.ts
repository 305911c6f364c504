import { QueryClient } from "@tanstack/react-query";
import createClient from "openapi-fetch";
import { benchRole } from "../app/role";
import { answered, keyOf } from "./once";
import type { components, paths } from "./schema";

export type Schemas = components["schemas"];

export const api = createClient<paths>({ baseUrl: window.location.origin });

api.use({
  async onRequest({ request }) {
    if (request.method === "GET") return request;
    request.headers.set("X-Bench-Role", encodeURIComponent(benchRole()));
    const key = await keyOf(request);
    if (key) request.headers.set("Idempotency-Key", key);
    return request;
  },
  async onResponse({ request }) {
    answered(request.headers.get("Idempotency-Key"));
  },
});

export const queryClient = new QueryClient({
  defaultOptions: { queries: { retry: 1, staleTime: 2_000, refetchOnWindowFocus: true } },
});

/** An error the server explained: what, where, and what to do. */
export class Problem extends Error {
  readonly status: number;
  readonly title: string;
  readonly fields: Record<string, string>;

  constructor(body: Partial<Schemas["ProblemDetails"]> | undefined, status: number) {
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

/** The data of a response, or its problem thrown. */
export async function data<T>(
  call: Promise<{ data?: T; error?: unknown; response: Response }>,
): Promise<T> {
  const {
    data: body,
    error,
    response,
  } = await call.catch(() => {
    throw new Problem(undefined, 0);
  });
  if (response.status === 401 && window.location.pathname !== "/pair") {
    window.location.assign("/pair");
  }
  if (!response.ok) {
    throw new Problem(error as Partial<Schemas["ProblemDetails"]>, response.status);
  }
  return body as T;
}
