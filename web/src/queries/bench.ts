import { queryOptions, useMutation } from "@tanstack/react-query";
import { answered, client, type Schemas } from "../api/client";

/** Works something out and keeps nothing: not to be told as saved. */
const writesNothing = { writesNothing: true };

/** What a recipe brings and what the tank then holds, while it is typed; prices and labels of Stores count. */
export const benchQuery = (body: Schemas["BenchSent"]) =>
  queryOptions({
    queryKey: ["trial", "bench", body],
    queryFn: () => answered(client.POST("/api/v1/bench", { body })),
    placeholderData: (before) => before,
    retry: false,
  });

/** The lines that a name of Stores stands for: a recipe's, or itself at its label dose. */
export const useBenchLines = () =>
  useMutation({
    meta: writesNothing,
    mutationFn: (name: string) =>
      answered(
        client.GET("/api/v1/bench/lines", { params: { query: { name } } }),
      ),
  });

/** The doses that come closest to a target. */
export const useAim = () =>
  useMutation({
    meta: writesNothing,
    mutationFn: (body: Schemas["BenchSent"]) =>
      answered(client.POST("/api/v1/bench/aim", { body })),
  });

/** What to add to a tank; nothing is written. */
export const useTopUp = (id: string) =>
  useMutation({
    meta: writesNothing,
    mutationFn: (body: Schemas["TopUpSent"]) =>
      answered(
        client.POST("/api/v1/trials/{id}/top-up", {
          params: { path: { id } },
          body,
        }),
      ),
  });
