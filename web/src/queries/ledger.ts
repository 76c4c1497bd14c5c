import { queryOptions } from "@tanstack/react-query";
import { answered, client, type Schemas } from "../api/client";
import { newKey } from "../api/outbox";
import { useTrialWrite } from "./trial";

/** What is said to a finding; an empty text takes it away. */
export function useAnswer(id: string) {
  return useTrialWrite(id, ({ code, text }: { code: string; text: string }) =>
    answered(
      client.PUT("/api/v1/trials/{id}/findings/{code}/answer", {
        params: { path: { id, code } }, body: { text }, headers: { "Idempotency-Key": newKey() },
      }),
    ),
  );
}

export const weatherQuery = (id: string) =>
  queryOptions({
    queryKey: ["trial", id, "weather"],
    queryFn: () => answered(client.GET("/api/v1/trials/{id}/weather", { params: { path: { id } } })),
  });

/** The weather of a day, in place of what stood there. */
export function useWeather(id: string) {
  return useTrialWrite(id, (body: Schemas["WeatherSent"]) =>
    answered(client.POST("/api/v1/trials/{id}/weather", { params: { path: { id } }, body, headers: { "Idempotency-Key": newKey() } })),
  );
}
