import {
  infiniteQueryOptions,
  queryOptions,
  type UseMutationResult,
  useMutation,
  useQuery,
  useQueryClient,
} from "@tanstack/react-query";
import { api, data, type Schemas } from "./client";
import type { Problem } from "./problem";
import { decodeEnvelope, decodeSamples } from "./samples";
import type { paths } from "./schema";
import type { Touched } from "./touched";

export type Grade = "fine" | "everyday" | "display";

export const catalogueQuery = queryOptions({
  queryKey: ["catalogue"],
  queryFn: () => data(api.GET("/api/catalogue")),
  staleTime: Number.POSITIVE_INFINITY,
});

/** Where an open job can stand, in the order of work. */
export function openStations(
  catalogue: Schemas["Catalogue"] | undefined,
): Schemas["StationInfo"][] {
  return catalogue?.stations.filter((s) => s.station !== "closed") ?? [];
}

export const decideQuery = (jobId: number) =>
  queryOptions({
    queryKey: ["job", jobId, "decide"],
    queryFn: () =>
      data(api.GET("/api/jobs/{job_id}/decide", { params: { path: { job_id: jobId } } })),
  });

export const calculatorsQuery = queryOptions({
  queryKey: ["calculators"],
  queryFn: () => data(api.GET("/api/calculators")),
  staleTime: Number.POSITIVE_INFINITY,
});

/** What comes out, as it is typed; the last answer stays until the next is there. */
export const calculatedQuery = (name: string, inputs: Record<string, string>, job: number | null) =>
  queryOptions({
    queryKey: ["calculated", name, inputs, job],
    queryFn: () =>
      data(
        api.POST("/api/calculators/{name}", {
          params: { path: { name } },
          body: { inputs, job_id: job },
        }),
      ),
    placeholderData: (before) => before,
    retry: false,
    staleTime: Number.POSITIVE_INFINITY,
  });

/** What was read while a stick was centred by hand. */
export const centringQuery = (job: number, centring: number) =>
  queryOptions({
    queryKey: ["job", job, "centring", centring],
    queryFn: () =>
      data(
        api.GET("/api/jobs/{job_id}/centrings/{centring_id}", {
          params: { path: { job_id: job, centring_id: centring } },
        }),
      ),
  });

/** What a calibration of the job's stick would hold; the last answer stays while a margin is typed. */
export const calibrationQuery = (job: number, margin: string) =>
  queryOptions({
    queryKey: ["job", job, "calibration", margin],
    queryFn: () =>
      data(
        api.GET("/api/jobs/{job_id}/calibration", {
          params: { path: { job_id: job }, query: { margin: (margin.trim() || "0") as never } },
        }),
      ),
    placeholderData: (before) => before,
    retry: false,
  });

/** Kinds of parts, and ways for them to move. */
export const partKindsQuery = queryOptions({
  queryKey: ["part-kinds"],
  queryFn: () => data(api.GET("/api/parts/kinds")),
  staleTime: Number.POSITIVE_INFINITY,
});

/** The shelf as it is looked through; the last answer stays while one types. */
export const shelfQuery = (text: string, low: boolean, after: number) =>
  queryOptions({
    queryKey: ["shelf", "parts", text, low, after],
    queryFn: () => data(api.GET("/api/parts", { params: { query: { text, low, after } } })),
    placeholderData: (before) => before,
  });

export const partQuery = (part: number) =>
  queryOptions({
    queryKey: ["shelf", "part", part],
    queryFn: () => data(api.GET("/api/parts/{part_id}", { params: { path: { part_id: part } } })),
  });

export const inspectionQuery = (inspection: number) =>
  queryOptions({
    queryKey: ["shelf", "inspection", inspection],
    queryFn: () =>
      data(
        api.GET("/api/inspections/{inspection_id}", {
          params: { path: { inspection_id: inspection } },
        }),
      ),
  });

export const inspectionsQuery = (part: number) =>
  queryOptions({
    queryKey: ["shelf", "part", part, "inspections"],
    queryFn: () =>
      data(api.GET("/api/parts/{part_id}/inspections", { params: { path: { part_id: part } } })),
  });

export const donorsQuery = (job: number | null) =>
  queryOptions({
    queryKey: ["shelf", "donors", job],
    queryFn: () =>
      job === null
        ? data(api.GET("/api/donors"))
        : data(api.GET("/api/jobs/{job_id}/donors", { params: { path: { job_id: job } } })),
  });

export const inspectionInfoQuery = queryOptions({
  queryKey: ["inspection-info"],
  queryFn: () => data(api.GET("/api/inspection-info")),
  staleTime: Number.POSITIVE_INFINITY,
});

export const ordersQuery = queryOptions({
  queryKey: ["shelf", "orders"],
  queryFn: () => data(api.GET("/api/orders")),
});

/** What goes into a job's stick with a remedy. */
export const jobPartsQuery = (job: number, remedy: string, stick: string) =>
  queryOptions({
    queryKey: ["job", job, "parts", remedy, stick],
    queryFn: () =>
      data(
        api.GET("/api/jobs/{job_id}/parts", {
          params: { path: { job_id: job }, query: { remedy, stick } },
        }),
      ),
  });

export const trackRecordQuery = queryOptions({
  queryKey: ["bench", "decisions"],
  queryFn: () => data(api.GET("/api/decisions")),
});

export const modelsQuery = queryOptions({
  queryKey: ["model"],
  queryFn: () => data(api.GET("/api/models")),
});

export const trayQuery = queryOptions({
  queryKey: ["bench", "tray"],
  queryFn: () => data(api.GET("/api/tray")),
});

export const jobQuery = (id: number) =>
  queryOptions({
    queryKey: ["job", id],
    queryFn: () => data(api.GET("/api/jobs/{job_id}", { params: { path: { job_id: id } } })),
  });

export const takeQuery = (id: number, grade: Grade = "everyday") =>
  queryOptions({
    queryKey: ["take", id, grade],
    queryFn: () =>
      data(
        api.GET("/api/takes/{take_id}", { params: { path: { take_id: id }, query: { grade } } }),
      ),
  });

export const samplesQuery = (id: number) =>
  queryOptions({
    queryKey: ["samples", id],
    queryFn: async () => {
      const body = await data(
        api.GET("/api/takes/{take_id}/samples", {
          params: { path: { take_id: id } },
          parseAs: "arrayBuffer",
        }),
      );
      return decodeSamples(body as ArrayBuffer);
    },
    staleTime: Number.POSITIVE_INFINITY,
    gcTime: 60_000,
  });

export const stickTakesQuery = (controllerId: number, stick: string) =>
  queryOptions({
    queryKey: ["controller", controllerId, "takes", stick],
    queryFn: () =>
      data(
        api.GET("/api/controllers/{controller_id}/sticks/{stick}/takes", {
          params: { path: { controller_id: controllerId, stick } },
        }),
      ),
  });

export const comparisonQuery = (
  before: number,
  after: number,
  grade: Grade,
  reference: boolean = false,
) =>
  queryOptions({
    queryKey: ["take", after, "against", before, grade, reference],
    queryFn: () =>
      data(api.GET("/api/comparison", { params: { query: { before, after, grade, reference } } })),
  });

export const controllerQuery = (tag: string) =>
  queryOptions({
    queryKey: ["controller", tag],
    queryFn: () => data(api.GET("/api/controllers", { params: { query: { tag } } })),
    enabled: tag.length > 0,
  });

export const historyQuery = (id: number, after: number) =>
  queryOptions({
    queryKey: ["controller", id, "history", after],
    queryFn: () =>
      data(
        api.GET("/api/controllers/{controller_id}/history", {
          params: { path: { controller_id: id }, query: { after } },
        }),
      ),
    placeholderData: (before) => before,
  });

export const countsQuery = queryOptions({
  queryKey: ["bench", "counts"],
  queryFn: () => data(api.GET("/api/counts")),
});

export type JobFilter = NonNullable<paths["/api/jobs"]["get"]["parameters"]["query"]>;

/** Pages of jobs, the newest first. */
export const foundQuery = (wanted: JobFilter) =>
  infiniteQueryOptions({
    queryKey: ["bench", "jobs", wanted],
    queryFn: ({ pageParam }) =>
      data(
        api.GET("/api/jobs", {
          params: { query: { ...wanted, ...(pageParam ? { before: pageParam } : {}) } },
        }),
      ),
    initialPageParam: 0,
    getNextPageParam: (page, pages) =>
      pages.reduce((n, p) => n + p.strips.length, 0) < page.count
        ? page.strips.at(-1)?.job_id
        : undefined,
    placeholderData: (before) => before,
  });

export const checkQuery = (id: number) =>
  queryOptions({
    queryKey: ["job", "check", id],
    queryFn: () => data(api.GET("/api/checks/{check_id}", { params: { path: { check_id: id } } })),
    enabled: id > 0,
  });

/** How the bench itself is; asked for again while it is looked at. */
export const stateQuery = queryOptions({
  queryKey: ["state"],
  queryFn: () => data(api.GET("/api/state")),
  refetchInterval: ({ state }) => (state.data?.measuring ? 1_000 : 30_000),
});

export const importsQuery = queryOptions({
  queryKey: ["imports"],
  queryFn: () => data(api.GET("/api/imports")),
  refetchInterval: 400,
});

export const pairingQuery = queryOptions({
  queryKey: ["pairing"],
  queryFn: () => data(api.GET("/api/pairing")),
});

export const devicesQuery = queryOptions({
  queryKey: ["devices"],
  queryFn: () => data(api.GET("/api/devices")),
});

export const routinesQuery = queryOptions({
  queryKey: ["routines"],
  queryFn: () => data(api.GET("/api/routines")),
});

/** Asked for again while it is looked at: a jig or a controller may be plugged in any time. */
export const sourcesQuery = queryOptions({
  queryKey: ["sources"],
  queryFn: () => data(api.GET("/api/sources")),
  refetchInterval: 3_000,
});

export type SourceKind = Schemas["Take"]["source_kind"];

export interface NamedSource {
  model_id: string;
  source_kind: SourceKind;
  source_name: string;
}

export const mappingsQuery = (of: NamedSource) =>
  queryOptions({
    queryKey: ["model", of.model_id, "mappings", of.source_kind, of.source_name],
    queryFn: () => data(api.GET("/api/mappings", { params: { query: of } })),
    enabled: of.source_name.length > 0,
  });

/** What calibrates the numbers of a controller's sticks, by the last time. */
export const ownCalibrationsQuery = (job: number, controller: number, kind: SourceKind) =>
  queryOptions({
    queryKey: ["job", job, "own-calibrations", kind],
    queryFn: () =>
      data(
        api.GET("/api/own-calibrations", {
          params: { query: { controller_id: controller, source_kind: kind } },
        }),
      ),
  });

/** What the sources that a model is measured by were found to be like. */
export const sourceChecksQuery = (model: string) =>
  queryOptions({
    queryKey: ["model", model, "source-checks"],
    queryFn: () =>
      data(
        api.GET("/api/models/{model_id}/source-checks", { params: { path: { model_id: model } } }),
      ),
  });

/** What the whole bench waits for: looked at again often enough for another window's to show. */
export const timersQuery = queryOptions({
  queryKey: ["bench", "timers"],
  queryFn: () => data(api.GET("/api/timers")),
  refetchInterval: 10_000,
});

export const templatesQuery = queryOptions({
  queryKey: ["work-templates"],
  queryFn: () => data(api.GET("/api/work-templates")),
});

export const openingQuery = (job: number) =>
  queryOptions({
    queryKey: ["job", job, "opening"],
    queryFn: () =>
      data(api.GET("/api/jobs/{job_id}/opening", { params: { path: { job_id: job } } })),
  });

/** What was done in passes, and what was measured between them. */
export const passesQuery = (job: number) =>
  queryOptions({
    queryKey: ["job", job, "passes"],
    queryFn: () =>
      data(api.GET("/api/jobs/{job_id}/passes", { params: { path: { job_id: job } } })),
  });

/** Versions of a model's sheet that are kept. */
export const sheetVersionsQuery = (model: string) =>
  queryOptions({
    queryKey: ["model", model, "sheet", "versions"],
    queryFn: () =>
      data(
        api.GET("/api/models/{model_id}/teardown/versions", {
          params: { path: { model_id: model } },
        }),
      ),
  });

/** A version of a model's sheet, which never changes. */
export const sheetVersionQuery = (model: string, revision: number) =>
  queryOptions({
    queryKey: ["model", model, "sheet", "versions", revision],
    queryFn: () =>
      data(
        api.GET("/api/models/{model_id}/teardown", {
          params: { path: { model_id: model }, query: { revision } },
        }),
      ),
  });

export const teardownQuery = (model: string) =>
  queryOptions({
    queryKey: ["model", model, "sheet"],
    queryFn: () =>
      data(api.GET("/api/models/{model_id}/teardown", { params: { path: { model_id: model } } })),
  });

export const rechecksQuery = queryOptions({
  queryKey: ["bench", "rechecks"],
  queryFn: () => data(api.GET("/api/rechecks")),
});

export const reopenedQuery = queryOptions({
  queryKey: ["bench", "reopened"],
  queryFn: () => data(api.GET("/api/reopened")),
});

export const studiesQuery = queryOptions({
  queryKey: ["study"],
  queryFn: () => data(api.GET("/api/studies")),
});

export const studyQuery = (id: number) =>
  queryOptions({
    queryKey: ["study", id],
    queryFn: () => data(api.GET("/api/studies/{study_id}", { params: { path: { study_id: id } } })),
  });

/** A stretch of a take, few points, every extreme. While it is recorded it grows. */
export const envelopeQuery = (id: number, from: number | null, to: number | null) =>
  queryOptions({
    queryKey: ["samples", id, from, to],
    queryFn: async () => {
      const body = await data(
        api.GET("/api/takes/{take_id}/envelope", {
          params: {
            path: { take_id: id },
            query: {
              ...(from === null ? {} : { from_s: from }),
              ...(to === null ? {} : { to_s: to }),
            },
          },
          parseAs: "arrayBuffer",
        }),
      );
      return decodeEnvelope(body as ArrayBuffer);
    },
    placeholderData: (before) => before,
  });

/** Asks again for what a change touched. */
export function useRefresh(): (touched: Touched) => Promise<void> {
  const client = useQueryClient();
  return async (touched) => {
    await Promise.all(touched.map((queryKey) => client.invalidateQueries({ queryKey })));
  };
}

/** A change on the server, after which what it touched is asked for again, whether or not it was
 * refused. */
export function useChange<Input, Output>(
  change: (input: Input) => Promise<Output>,
  touched: Touched,
): UseMutationResult<Output, Problem, Input> {
  const refresh = useRefresh();
  return useMutation({ mutationFn: change, onSettled: () => refresh(touched) });
}

export function useReadingInfo(): (path: string) => Schemas["ReadingInfo"] | undefined {
  const { data: catalogue } = useQuery(catalogueQuery);
  return (path) => catalogue?.readings.find((r) => r.path === path);
}
