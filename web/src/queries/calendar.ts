import {
  queryOptions,
  useMutation,
  useQueryClient,
} from "@tanstack/react-query";
import { record } from "../api/records";
import { answered, client, type Schemas } from "../api/client";
import { todayQuery } from "./trial";

export const calendarQuery = queryOptions({
  queryKey: ["calendar"],
  queryFn: () => answered(client.GET("/api/v1/calendar")),
});

export const labelsQuery = (id: string) =>
  queryOptions({
    queryKey: ["trial", id, "labels"],
    queryFn: () =>
      answered(
        client.GET("/api/v1/trials/{id}/labels", {
          params: { path: { id }, query: { base: window.location.origin } },
        }),
      ),
  });

function useCalendarWrite<A, T>(write: (sent: A) => Promise<T>) {
  const queries = useQueryClient();
  return useMutation({
    mutationFn: write,
    onSettled: () => {
      void queries.invalidateQueries(todayQuery);
      void queries.invalidateQueries({ queryKey: ["trial"] });
      return queries.invalidateQueries(calendarQuery);
    },
  });
}

export const useAway = () =>
  useCalendarWrite((body: Schemas["AwaySent"]) =>
    answered(client.POST("/api/v1/away", { body })),
  );

export const useNotAway = () =>
  useCalendarWrite((id: string) =>
    answered(
      client.POST("/api/v1/away/{id}/remove", { params: { path: { id } } }),
    ),
  );

export const useMoveJob = () =>
  useCalendarWrite(({ id, ...body }: Schemas["MovedRecord"] & { id: string }) =>
    record(id, { kind: "moved", body }),
  );

export const materialsQuery = (id: string) =>
  queryOptions({
    queryKey: ["trial", id, "materials"],
    queryFn: () =>
      answered(
        client.GET("/api/v1/trials/{id}/materials", {
          params: { path: { id } },
        }),
      ),
  });
