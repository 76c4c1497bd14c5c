import { queryOptions } from "@tanstack/react-query";
import { answered, client } from "../api/client";
import { newKey } from "../api/records";
import { useTrialWrite } from "./trial";

export const looksQuery = (id: string) =>
  queryOptions({
    queryKey: ["trial", id, "looks"],
    queryFn: () =>
      answered(
        client.GET("/api/v1/trials/{id}/looks", { params: { path: { id } } }),
      ),
  });

/** A look at a measure: it is asked of the server there and then, for it tells of what is on record by now. */
export function useLook(id: string) {
  return useTrialWrite(id, (measure: string) =>
    answered(
      client.POST("/api/v1/trials/{id}/looks", {
        params: { path: { id } },
        body: { measure },
        headers: { "Idempotency-Key": newKey() },
      }),
    ),
  );
}
