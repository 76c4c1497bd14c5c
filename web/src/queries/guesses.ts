import { queryOptions } from "@tanstack/react-query";
import { newKey } from "../api/outbox";
import { answered, client, type Schemas } from "../api/client";
import { useTrialWrite } from "./trial";

export const guessesQuery = (id: string) =>
  queryOptions({
    queryKey: ["trial", id, "guesses"],
    queryFn: () => answered(client.GET("/api/v1/trials/{id}/guesses", { params: { path: { id } } })),
  });

export function useGuess(id: string) {
  return useTrialWrite(id, (body: Schemas["GuessSent"]) =>
    answered(client.POST("/api/v1/trials/{id}/guesses", { params: { path: { id } }, body, headers: { "Idempotency-Key": newKey() } })),
  );
}
