import {
  queryOptions,
  useMutation,
  useQueryClient,
  type QueryClient,
} from "@tanstack/react-query";
import { useNavigate } from "react-router";
import { answered, client, type Schemas, type TrialView } from "../api/client";
import type { paths } from "../api/schema";
import { sendHere, type Entry } from "../api/outbox";

export const farmQuery = queryOptions({
  queryKey: ["farm"],
  queryFn: () => answered(client.GET("/api/v1/farm")),
});

export const catalogueQuery = queryOptions({
  queryKey: ["catalogue"],
  queryFn: () => answered(client.GET("/api/v1/catalogue")),
  staleTime: Infinity,
});

export const todayQuery = queryOptions({
  queryKey: ["today"],
  queryFn: () => answered(client.GET("/api/v1/today")),
});

export const trialsQuery = queryOptions({
  queryKey: ["trials"],
  queryFn: () => answered(client.GET("/api/v1/trials")),
});

export const trialQuery = (id: string) =>
  queryOptions({
    queryKey: ["trial", id],
    queryFn: () =>
      answered(client.GET("/api/v1/trials/{id}", { params: { path: { id } } })),
  });

export const mixQuery = (id: string, vessel: number | null = null) =>
  queryOptions({
    queryKey: ["trial", id, "mix", vessel],
    queryFn: () =>
      answered(
        client.GET("/api/v1/trials/{id}/mix", {
          params: {
            path: { id },
            query: vessel === null ? {} : { vessel_l: vessel },
          },
        }),
      ),
    placeholderData: (before) => before,
    retry: false,
  });

export const uptakeQuery = (id: string) =>
  queryOptions({
    queryKey: ["trial", id, "uptake"],
    queryFn: () =>
      answered(
        client.GET("/api/v1/trials/{id}/uptake", { params: { path: { id } } }),
      ),
  });

export const tendQuery = (id: string, day: number | null) =>
  queryOptions({
    queryKey: ["trial", id, "tend", day],
    queryFn: () =>
      answered(
        client.GET("/api/v1/trials/{id}/tend", {
          params: { path: { id }, query: day === null ? {} : { day } },
        }),
      ),
    placeholderData: (before) => before,
  });

export const weighQuery = (id: string, turn: Schemas["Turn"]) =>
  queryOptions({
    queryKey: ["trial", id, "weigh", turn],
    queryFn: () =>
      answered(
        client.GET("/api/v1/trials/{id}/weigh", {
          params: { path: { id }, query: { turn } },
        }),
      ),
    placeholderData: (before) => before,
  });

export const judgeQuery = (
  id: string,
  measure: string | null,
  crop: number | null = null,
  against: number | null = null,
) =>
  queryOptions({
    queryKey: ["trial", id, "judge", measure, crop, against],
    queryFn: () =>
      answered(
        client.GET("/api/v1/trials/{id}/judge", {
          params: { path: { id }, query: { measure, crop, against } },
        }),
      ),
    placeholderData: (before) => before,
  });

export const pictureQuery = (body: Schemas["PictureSent"]) =>
  queryOptions({
    queryKey: ["picture", body],
    queryFn: () => answered(client.POST("/api/v1/picture", { body })),
    placeholderData: (before) => before,
    staleTime: Infinity,
    retry: false,
  });

/** What a trial whose measure is a count, a share or days could see. */
export const expectedQuery = (id: string, version: number) =>
  queryOptions({
    queryKey: ["expected", id, version],
    queryFn: () =>
      answered(
        client.GET("/api/v1/trials/{id}/expected", {
          params: { path: { id } },
        }),
      ),
    placeholderData: (before) => before,
    staleTime: Infinity,
    retry: false,
  });

/** Acid or base for a water of Stores. */
export const phQuery = (body: Schemas["PhSent"]) =>
  queryOptions({
    queryKey: ["ph", body],
    queryFn: () => answered(client.POST("/api/v1/ph-dose", { body })),
    placeholderData: (before) => before,
    retry: false,
  });

/** Everything about a trial may have moved after a write. */
export function refreshTrial(queries: QueryClient, id: string): Promise<void> {
  void queries.invalidateQueries({ queryKey: ["today"] });
  void queries.invalidateQueries({ queryKey: ["calendar"] });
  return queries.invalidateQueries({ queryKey: ["trial", id] });
}

/** What becomes of the grow space: worked out when it is sent, on what the change before it left. */
export type RackChange = (now: Schemas["Rack"]) => Partial<Schemas["Rack"]>;

/** A grow space of another size; levels that are no more lose their names and crops. */
export const resized =
  (size: { levels: number; slots: number; name?: string }): RackChange =>
  (now) => ({
    ...size,
    names: (now.names ?? []).slice(0, size.levels),
    crops: (now.crops ?? []).slice(0, size.levels),
  });

/** One change of the plan. Only what changes is named: a change built on a view that is not answered yet would undo the one before. */
type PlanPart =
  | { part: "ask"; name: string; ask: Schemas["Ask"]; reason: string | null }
  | { part: "sheet"; sheet: Schemas["Sheet"] }
  | { part: "rack"; rack: RackChange }
  | { part: "care"; care: Partial<Schemas["CarePlan"]> }
  | { part: "feed"; feed: Partial<Schemas["FeedPlan"]> }
  | { part: "sowing"; on: string | null }
  | { part: "places"; places: Schemas["Placed"][] }
  | { part: "deal" };

type AskPart = Extract<PlanPart, { part: "ask" }>;

/** Goes out also when the page is closed on the last words. */
const putAsk = (id: string, { name, ask, reason }: AskPart, version: number) =>
  answered(
    client.PUT("/api/v1/trials/{id}/ask", {
      params: { path: { id } },
      body: { name, ask, reason, version },
      keepalive: true,
    }),
  );

async function putPlan(
  id: string,
  change: PlanPart,
  now: TrialView,
): Promise<TrialView> {
  const params = { path: { id } };
  const { version } = now;
  switch (change.part) {
    case "ask":
      return putAsk(id, change, version);
    case "sheet":
      return answered(
        client.PUT("/api/v1/trials/{id}/match-sheet", {
          params,
          body: { sheet: change.sheet, version },
        }),
      );
    case "rack":
      return answered(
        client.PUT("/api/v1/trials/{id}/rack", {
          params,
          body: { rack: { ...now.rack, ...change.rack(now.rack) }, version },
        }),
      );
    case "care":
      return answered(
        client.PUT("/api/v1/trials/{id}/care", {
          params,
          body: { care: { ...now.care, ...change.care }, version },
        }),
      );
    case "feed":
      return answered(
        client.PUT("/api/v1/trials/{id}/feed", {
          params,
          body: { feed: { ...now.feed, ...change.feed }, version },
        }),
      );
    case "sowing":
      return answered(
        client.PUT("/api/v1/trials/{id}/sowing", {
          params,
          body: { on: change.on, version },
        }),
      );
    case "places":
      return answered(
        client.PUT("/api/v1/trials/{id}/places", {
          params,
          body: { places: change.places, version },
        }),
      );
    case "deal":
      return answered(
        client.POST("/api/v1/trials/{id}/deal", { params, body: { version } }),
      );
  }
}

/** Changes the plan. Changes of one trial go one after the other, each on the version that the one before left. */
export function usePlan(id: string) {
  const queries = useQueryClient();
  return useMutation({
    scope: { id: `plan-${id}` },
    mutationFn: async (change: PlanPart) =>
      putPlan(id, change, await queries.ensureQueryData(trialQuery(id))),
    onSuccess: (trial) => {
      queries.setQueryData(trialQuery(id).queryKey, trial);
      void queries.invalidateQueries({ queryKey: ["trial", id, "mix"] });
      void queries.invalidateQueries({ queryKey: ["trial", id, "materials"] });
      void queries.invalidateQueries({ queryKey: ["trial", id, "places"] });
      void queries.invalidateQueries({ queryKey: ["today"] });
      void queries.invalidateQueries({ queryKey: ["calendar"] });
    },
    onError: () => void queries.invalidateQueries({ queryKey: ["trial", id] }),
  });
}

/** Any other write to a trial: does it, then reads everything anew. */
export function useTrialWrite<A, T>(
  id: string,
  write: (sent: A) => Promise<T>,
) {
  const queries = useQueryClient();
  return useMutation({
    mutationFn: write,
    onSettled: () => refreshTrial(queries, id),
  });
}

/** Places chosen by hand, with their treatments. */
export const placesQuery = (id: string) =>
  queryOptions({
    queryKey: ["trial", id, "places"],
    queryFn: () =>
      answered(
        client.GET("/api/v1/trials/{id}/places", { params: { path: { id } } }),
      ),
  });

export function useLight(id: string) {
  return useTrialWrite(id, (body: Schemas["LightSent"]) =>
    answered(
      client.PUT("/api/v1/trials/{id}/light", {
        params: { path: { id } },
        body,
      }),
    ),
  );
}

export function useStarts(id: string) {
  return useTrialWrite(id, (body: Schemas["StartsSent"]) =>
    answered(
      client.PUT("/api/v1/trials/{id}/starts", {
        params: { path: { id } },
        body,
      }),
    ),
  );
}

export function useSiteCard(id: string) {
  return useTrialWrite(id, (body: Schemas["SiteCard"]) =>
    answered(
      client.PUT("/api/v1/trials/{id}/site-card", {
        params: { path: { id } },
        body,
      }),
    ),
  );
}

export function useUndo(id: string) {
  return useTrialWrite(id, () =>
    answered(
      client.POST("/api/v1/trials/{id}/undo", { params: { path: { id } } }),
    ),
  );
}

/** Makes a new trial, and goes to it. */
export function useNewTrial<T>(make: (from: T) => Promise<TrialView>) {
  const queries = useQueryClient();
  const navigate = useNavigate();
  return useMutation({
    mutationFn: make,
    onSuccess: (trial) => {
      queries.setQueryData(trialQuery(trial.id).queryKey, trial);
      void queries.invalidateQueries(todayQuery);
      void queries.invalidateQueries(trialsQuery);
      void navigate(`/trials/${trial.id}/ask`);
    },
  });
}

/** Puts a trial away or brings it back. */
export function usePutAway() {
  const queries = useQueryClient();
  return useMutation({
    mutationFn: ({ id, away }: { id: string; away: boolean }) =>
      answered(
        client.POST("/api/v1/trials/{id}/put-away", {
          params: { path: { id } },
          body: { away },
        }),
      ),
    onSettled: () => {
      void queries.invalidateQueries(todayQuery);
      return queries.invalidateQueries(trialsQuery);
    },
  });
}

/** Any record that goes through this device's outbox: it is kept first, then sent; where no answer comes it waits. */
export function useEntry(id: string) {
  return useTrialWrite(id, (entry: Entry) => sendHere(entry));
}

/** Work as it is marked. */
export interface JobDone {
  job: Schemas["Job"];
  /** The date on which it was done; today where left out. */
  date?: string;
  /** Whether a second time on the same day was confirmed. */
  confirmed?: boolean;
}

/** Marks work as done. */
export function useJob(id: string) {
  return useTrialWrite(id, ({ job, date, confirmed = false }: JobDone) => {
    const head = { confirmed, ...(date ? { date } : {}) };
    return sendHere({
      trial: id,
      records: [{ kind: "work", head, body: { job } }],
    });
  });
}

export const givenQuery = (id: string) =>
  queryOptions({
    queryKey: ["trial", id, "given"],
    queryFn: () =>
      answered(
        client.GET("/api/v1/trials/{id}/given", { params: { path: { id } } }),
      ),
  });

/** Shows everybody who records which codes are filled from one jug. */
export function useJugs(id: string) {
  return useTrialWrite(id, () =>
    answered(
      client.POST("/api/v1/trials/{id}/jugs", { params: { path: { id } } }),
    ),
  );
}

export const photosQuery = (id: string) =>
  queryOptions({
    queryKey: ["trial", id, "photos"],
    queryFn: () =>
      answered(
        client.GET("/api/v1/trials/{id}/photos", { params: { path: { id } } }),
      ),
  });

export const pictureOf = (
  trial: string,
  photo: string,
  what: "file" | "small" | "mask" | "flat",
) =>
  `/api/v1/trials/${encodeURIComponent(trial)}/photos/${encodeURIComponent(photo)}/${what}`;

/** Keeps what was marked in a picture. */
export function useMarkPhoto(id: string) {
  return useTrialWrite(
    id,
    ({ photo, ...body }: Schemas["MarkSent"] & { photo: string }) =>
      answered(
        client.PUT("/api/v1/trials/{id}/photos/{photo}", {
          params: { path: { id, photo } },
          body,
        }),
      ),
  );
}

export type DiaryKind = NonNullable<
  NonNullable<
    paths["/api/v1/trials/{id}/diary"]["get"]["parameters"]["query"]
  >["kind"]
>;

export const diaryQuery = (
  id: string,
  kind: DiaryKind | null,
  before: number | null,
) =>
  queryOptions({
    queryKey: ["trial", id, "diary", kind, before],
    queryFn: () =>
      answered(
        client.GET("/api/v1/trials/{id}/diary", {
          params: {
            path: { id },
            query: {
              ...(kind ? { kind } : {}),
              ...(before === null ? {} : { before }),
            },
          },
        }),
      ),
    placeholderData: (earlier) => earlier,
  });

export function useTakeBack(id: string) {
  return useTrialWrite(id, (entry: number) =>
    answered(
      client.POST("/api/v1/trials/{id}/take-back", {
        params: { path: { id } },
        body: { entry },
      }),
    ),
  );
}
