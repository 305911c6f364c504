import { QueryClient } from "@tanstack/react-query";
import createClient from "openapi-fetch";
import { benchRole } from "../app/role";
import { answered, keyOf } from "./once";
import { Problem } from "./problem";
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

/** The server is asked whether this machine has a network or not: mostly it runs on it. */
const networkMode = "always";

export const queryClient = new QueryClient({
  defaultOptions: {
    queries: { networkMode, retry: 1, staleTime: 2_000, refetchOnWindowFocus: true },
    mutations: { networkMode },
  },
});

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
