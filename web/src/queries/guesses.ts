import { queryOptions } from "@tanstack/react-query";
import { answered, client } from "../api/client";

/** Who guesses how well, over all trials. */
export const guessersQuery = queryOptions({
  queryKey: ["trial", "guessers"],
  queryFn: () => answered(client.GET("/api/v1/guessers")),
});

export const guessesQuery = (id: string) =>
  queryOptions({
    queryKey: ["trial", id, "guesses"],
    queryFn: () =>
      answered(
        client.GET("/api/v1/trials/{id}/guesses", { params: { path: { id } } }),
      ),
  });
