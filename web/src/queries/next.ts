import {
  queryOptions,
  useMutation,
  useQueryClient,
} from "@tanstack/react-query";
import { answered, client, type Schemas } from "../api/client";
import { newKey, record } from "../api/records";

/** What was decided, what the figures advise, and which trials could follow. */
export const nextQuery = (id: string) =>
  queryOptions({
    queryKey: ["trial", id, "next"],
    queryFn: () =>
      answered(
        client.GET("/api/v1/trials/{id}/next", { params: { path: { id } } }),
      ),
  });

/** All measures against all treatments, with what stands beside the verdicts. */
export const measuresQuery = (id: string) =>
  queryOptions({
    queryKey: ["trial", id, "measures"],
    queryFn: () =>
      answered(
        client.GET("/api/v1/trials/{id}/judge/measures", {
          params: { path: { id } },
        }),
      ),
  });

export function useDecide(id: string) {
  const queries = useQueryClient();
  return useMutation({
    mutationFn: (body: Schemas["DecisionRecord"]) =>
      record(id, { kind: "decision", body }),
    onSuccess: () => queries.invalidateQueries({ queryKey: ["trial"] }),
  });
}

/** Plans a suggested trial; answers the new one. */
export function usePlanNext(id: string) {
  const queries = useQueryClient();
  return useMutation({
    mutationFn: (key: string) =>
      answered(
        client.POST("/api/v1/trials/{id}/next", {
          params: { path: { id } },
          body: { key },
          headers: { "Idempotency-Key": newKey() },
        }),
      ),
    onSuccess: () => queries.invalidateQueries({ queryKey: ["trials"] }),
  });
}

export const scorecardQuery = (id: string) =>
  queryOptions({
    queryKey: ["trial", id, "scorecard"],
    queryFn: () =>
      answered(
        client.GET("/api/v1/trials/{id}/scorecard", {
          params: { path: { id } },
        }),
      ),
  });

/** Keeps the card, and reads what it comes to. */
export function useScorecard(id: string) {
  const queries = useQueryClient();
  return useMutation({
    mutationFn: (body: Schemas["Scorecard"]) =>
      record(id, { kind: "scorecard", body }),
    onSuccess: () =>
      queries.invalidateQueries({ queryKey: ["trial", id, "scorecard"] }),
  });
}
