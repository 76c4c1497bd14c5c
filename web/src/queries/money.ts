import {
  queryOptions,
  useMutation,
  useQueryClient,
} from "@tanstack/react-query";
import { answered, client, type Schemas } from "../api/client";
import { newKey } from "../api/records";

export const moneyQuery = (id: string) =>
  queryOptions({
    queryKey: ["trial", id, "money"],
    queryFn: () =>
      answered(
        client.GET("/api/v1/trials/{id}/money", { params: { path: { id } } }),
      ),
  });

export const pricesQuery = queryOptions({
  queryKey: ["prices"],
  queryFn: () => answered(client.GET("/api/v1/farm/prices")),
});

/** What electricity and work cost; every trial's money is told anew. */
export function usePrices() {
  const queries = useQueryClient();
  return useMutation({
    mutationFn: (body: Schemas["Prices"]) =>
      answered(
        client.PUT("/api/v1/farm/prices", {
          body,
          headers: { "Idempotency-Key": newKey() },
        }),
      ),
    onSuccess: () =>
      Promise.all([
        queries.invalidateQueries({ queryKey: ["prices"] }),
        queries.invalidateQueries({ queryKey: ["trial"] }),
      ]),
  });
}
