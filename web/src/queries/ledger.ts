import { queryOptions } from "@tanstack/react-query";
import { answered, client, type Schemas } from "../api/client";
import { record } from "../api/records";
import { useTrialWrite } from "./trial";

/** What is said to a finding; an empty text takes it away. */
export function useAnswer(id: string) {
  return useTrialWrite(id, ({ code, text }: { code: string; text: string }) =>
    record(id, { kind: "answer", body: { code, text } }),
  );
}

export const weatherQuery = (id: string) =>
  queryOptions({
    queryKey: ["trial", id, "weather"],
    queryFn: () =>
      answered(
        client.GET("/api/v1/trials/{id}/weather", { params: { path: { id } } }),
      ),
  });

/** The weather of a day, in place of what stood there. */
export function useWeather(id: string) {
  return useTrialWrite(
    id,
    ({ day, ...body }: Schemas["WeatherRecord"] & { day: number }) =>
      record(id, { kind: "weather", head: { day }, body }),
  );
}
