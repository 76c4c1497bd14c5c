import {
  queryOptions,
  useMutation,
  useQueryClient,
} from "@tanstack/react-query";
import { answered, client, type Schemas } from "../api/client";
import { farmQuery } from "./trial";

export const backupsQuery = queryOptions({
  queryKey: ["backups"],
  queryFn: () => answered(client.GET("/api/v1/backups")),
});

/** Sets name and time zone; with another zone another day may have begun, so that everything is read anew. */
export function useFarm() {
  const queries = useQueryClient();
  return useMutation({
    mutationFn: (body: Schemas["FarmSent"]) =>
      answered(client.PUT("/api/v1/farm", { body })),
    onSuccess: (farm) => {
      queries.setQueryData(farmQuery.queryKey, farm);
      void queries.invalidateQueries();
    },
  });
}

function useBackupsWrite<A>(
  write: (sent: A) => Promise<Schemas["BackupsView"]>,
) {
  const queries = useQueryClient();
  return useMutation({
    mutationFn: write,
    onSuccess: (view) => queries.setQueryData(backupsQuery.queryKey, view),
  });
}

export const useBackUp = () =>
  useBackupsWrite(() => answered(client.POST("/api/v1/backups")));

export const useNightly = () =>
  useBackupsWrite((nightly: number) =>
    answered(client.PUT("/api/v1/backups", { body: { nightly } })),
  );
