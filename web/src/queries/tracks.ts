import {
  queryOptions,
  useMutation,
  useQueryClient,
} from "@tanstack/react-query";
import { answered, client, type Schemas } from "../api/client";
import { newKey } from "../api/records";
import { useTrialWrite } from "./trial";

export const tracksQuery = (id: string) =>
  queryOptions({
    queryKey: ["trial", id, "tracks"],
    queryFn: () =>
      answered(
        client.GET("/api/v1/trials/{id}/tracks", { params: { path: { id } } }),
      ),
  });

export const trackQuery = (id: string, key: string) =>
  queryOptions({
    queryKey: ["trial", id, "tracks", key],
    queryFn: () =>
      answered(
        client.GET("/api/v1/trials/{id}/tracks/{key}", {
          params: { path: { id, key } },
        }),
      ),
  });

/** Which of the quantities that loggers recorded, or that follow from them. */
export type SeriesOf =
  | { computed: false; quantity: Schemas["LoggedQuantity"] }
  | { computed: true; quantity: Schemas["ComputedQuantity"] };

export const loggedQuery = (id: string, of: SeriesOf, from: number | null) =>
  queryOptions({
    queryKey: ["trial", id, "tracks", "logged", of.computed, of.quantity, from],
    queryFn: () => {
      const query = from === null ? {} : { from };
      return answered(
        of.computed
          ? client.GET("/api/v1/trials/{id}/tracks/computed/{quantity}", {
              params: { path: { id, quantity: of.quantity }, query },
            })
          : client.GET("/api/v1/trials/{id}/tracks/logged/{quantity}", {
              params: { path: { id, quantity: of.quantity }, query },
            }),
      );
    },
    placeholderData: (earlier) => earlier,
  });

/** How often the progress of a file is asked for, ms. */
const EVERY = 400;

const isRunning = (file: Schemas["LoggerArrived"]) =>
  file.standing === "running";

export const loggersQuery = (id: string) =>
  queryOptions({
    queryKey: ["trial", id, "loggers"],
    queryFn: () =>
      answered(
        client.GET("/api/v1/trials/{id}/loggers", { params: { path: { id } } }),
      ),
    refetchInterval: (query) =>
      query.state.data?.incoming.some(isRunning) ? EVERY : false,
  });

/** Brings a logger's file as it is; nothing is taken in yet. */
export function useBringLog(id: string) {
  const queries = useQueryClient();
  return useMutation({
    meta: { writesNothing: true },
    mutationFn: (file: File) =>
      answered(
        client.POST("/api/v1/trials/{id}/loggers", {
          params: { path: { id }, query: { name: file.name } },
          headers: { "Content-Type": "text/csv" },
          // The file goes as it is, and not as JSON.
          body: file as unknown as number[],
          bodySerializer: (body) => body as unknown as Blob,
        }),
      ),
    onSettled: () =>
      queries.invalidateQueries({ queryKey: ["trial", id, "loggers"] }),
  });
}

/** How the first and the last rows of a file would be read. */
export const previewQuery = (
  id: string,
  token: string,
  mapping: Schemas["Mapping"],
) =>
  queryOptions({
    queryKey: ["trial", id, "loggers", token, "preview", mapping],
    queryFn: () =>
      answered(
        client.POST("/api/v1/trials/{id}/loggers/{token}/preview", {
          params: { path: { id, token } },
          body: mapping,
        }),
      ),
    placeholderData: (earlier) => earlier,
    retry: false,
  });

export function useTakeLogIn(id: string) {
  return useTrialWrite(
    id,
    ({ token, mapping }: { token: string; mapping: Schemas["Mapping"] }) =>
      answered(
        client.POST("/api/v1/trials/{id}/loggers/{token}/take-in", {
          params: { path: { id, token } },
          body: mapping,
          headers: { "Idempotency-Key": newKey() },
        }),
      ),
  );
}

export function useGiveLogUp(id: string) {
  return useTrialWrite(id, (token: string) =>
    answered(
      client.DELETE("/api/v1/trials/{id}/loggers/{token}", {
        params: { path: { id, token } },
      }),
    ),
  );
}

export function useTakeLogBack(id: string) {
  return useTrialWrite(id, (token: string) =>
    answered(
      client.POST("/api/v1/trials/{id}/loggers/{token}/take-back", {
        params: { path: { id, token } },
      }),
    ),
  );
}
