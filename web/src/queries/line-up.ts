import { queryOptions } from "@tanstack/react-query";
import { answered, client } from "../api/client";

export const lineUpsQuery = (id: string) =>
  queryOptions({
    queryKey: ["trial", id, "line-ups"],
    queryFn: () =>
      answered(
        client.GET("/api/v1/trials/{id}/line-ups", {
          params: { path: { id } },
        }),
      ),
  });
