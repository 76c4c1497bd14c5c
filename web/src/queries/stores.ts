import {
  queryOptions,
  useMutation,
  useQueryClient,
} from "@tanstack/react-query";
import { answered, client, type Schemas } from "../api/client";

export const storesQuery = queryOptions({
  queryKey: ["stores"],
  queryFn: () => answered(client.GET("/api/v1/stores")),
});

type Shelves = Schemas["ShelfView"][];

/** A write to the shelves: the answer is what then stands on them; trials read what is behind their names anew. */
function useShelfWrite<A>(write: (sent: A) => Promise<Shelves>) {
  const queries = useQueryClient();
  return useMutation({
    mutationFn: write,
    onSuccess: (shelves) => {
      queries.setQueryData(storesQuery.queryKey, shelves);
      void queries.invalidateQueries({ queryKey: ["trial"] });
    },
    onError: () => void queries.invalidateQueries(storesQuery),
  });
}

export const usePutItem = () =>
  useShelfWrite((body: Schemas["ItemSent"]) =>
    answered(client.POST("/api/v1/stores/items", { body })),
  );

export const useRemoveItem = () =>
  useShelfWrite(({ id, version }: { id: string; version: number }) =>
    answered(
      client.POST("/api/v1/stores/items/{id}/remove", {
        params: { path: { id } },
        body: { version },
      }),
    ),
  );

export const useImport = () =>
  useShelfWrite(({ shelf, csv }: { shelf: string; csv: string }) =>
    answered(
      client.POST("/api/v1/stores/{shelf}/import", {
        params: { path: { shelf } },
        body: { csv },
      }),
    ),
  );

export function useShelfUndo() {
  const queries = useQueryClient();
  return useMutation({
    mutationFn: () => answered(client.POST("/api/v1/stores/undo")),
    onSettled: () => queries.invalidateQueries(),
  });
}
