import {
  queryOptions,
  useMutation,
  useQueryClient,
} from "@tanstack/react-query";
import { answered, client, type Schemas } from "../api/client";

const key = (id: string) => ["trial", id, "tastings"];

/** The tastings of a trial; asked again every few seconds, so that who lays the table sees who has answered. */
export const tastingsQuery = (id: string) =>
  queryOptions({
    queryKey: key(id),
    queryFn: () =>
      answered(
        client.GET("/api/v1/trials/{id}/tastings", {
          params: { path: { id } },
        }),
      ),
    refetchInterval: (query) =>
      query.state.data?.tastings.some((t) => t.open && t.way === "served")
        ? 3000
        : false,
  });

export const foretoldQuery = (asked: Schemas["Asked"], answers: number) =>
  queryOptions({
    queryKey: ["tasting-foretold", asked, answers],
    queryFn: () =>
      answered(
        client.GET("/api/v1/tasting/foretold", {
          params: { query: { asked, answers } },
        }),
      ),
    enabled: Number.isInteger(answers) && answers > 0 && answers <= 400,
    placeholderData: (before) => before,
  });

export const cardsQuery = (id: string, no: number) =>
  queryOptions({
    queryKey: [...key(id), no, "cards"],
    queryFn: () =>
      answered(
        client.GET("/api/v1/trials/{id}/tastings/{no}/cards", {
          params: { path: { id, no }, query: { base: window.location.origin } },
        }),
      ),
  });

export const seatQuery = (token: string) =>
  queryOptions({
    queryKey: ["taste", token],
    queryFn: () =>
      answered(
        client.GET("/api/v1/taste/{token}", { params: { path: { token } } }),
      ),
    // What a taster is typing is not to be taken from under their thumb.
    refetchOnWindowFocus: false,
  });

/** What is done at a tasting; each answers with how the tastings of the trial stand then. */
export type Deed =
  | { kind: "begin"; body: Schemas["TastingSent"] }
  | { kind: "close"; no: number }
  | { kind: "answer"; no: number; seat: number; body: Schemas["AnswerSent"] }
  | { kind: "uncover"; no: number; seat: number; codes: string[] };

async function done(id: string, deed: Deed): Promise<Schemas["TastingsView"]> {
  switch (deed.kind) {
    case "begin":
      return answered(
        client.POST("/api/v1/trials/{id}/tastings", {
          params: { path: { id } },
          body: deed.body,
        }),
      );
    case "close":
      return answered(
        client.POST("/api/v1/trials/{id}/tastings/{no}/close", {
          params: { path: { id, no: deed.no } },
        }),
      );
    case "answer": {
      const path = { id, no: deed.no, seat: deed.seat };
      return answered(
        client.POST("/api/v1/trials/{id}/tastings/{no}/seats/{seat}/answer", {
          params: { path },
          body: deed.body,
        }),
      );
    }
    case "uncover": {
      const path = { id, no: deed.no, seat: deed.seat };
      return answered(
        client.POST(
          "/api/v1/trials/{id}/tastings/{no}/seats/{seat}/uncovered",
          { params: { path }, body: { codes: deed.codes } },
        ),
      );
    }
  }
}

export function useDeed(id: string) {
  const queries = useQueryClient();
  return useMutation({
    mutationFn: (deed: Deed) => done(id, deed),
    onSuccess: (view) => queries.setQueryData(key(id), view),
  });
}

export const sendTaste = (token: string, body: Schemas["AnswerSent"]) =>
  answered(
    client.POST("/api/v1/taste/{token}", { params: { path: { token } }, body }),
  );
