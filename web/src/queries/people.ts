import {
  queryOptions,
  useMutation,
  useQuery,
  useQueryClient,
} from "@tanstack/react-query";
import { answered, client, type Schemas } from "../api/client";

export const meQuery = queryOptions({
  queryKey: ["me"],
  queryFn: () => answered(client.GET("/api/v1/me")),
});

export const peopleQuery = queryOptions({
  queryKey: ["people"],
  queryFn: () => answered(client.GET("/api/v1/people")),
});

/** Whether one may change plans, deal and open keys. */
export function useIsOwner(): boolean {
  const me = useQuery(meQuery);
  return me.data?.role === "owner";
}

/** Who one is decides what one sees: everything is read anew. */
function useIdentity<A, T>(write: (sent: A) => Promise<T>) {
  const queries = useQueryClient();
  return useMutation({
    mutationFn: write,
    onSuccess: () => queries.resetQueries(),
  });
}

export const useSignIn = () =>
  useIdentity((body: Schemas["SignIn"]) =>
    answered(client.POST("/api/v1/sign-in", { body })),
  );

export const useSignOut = () =>
  useIdentity(() => answered(client.POST("/api/v1/sign-out")));

function usePeopleWrite<A>(write: (sent: A) => Promise<Schemas["PeopleView"]>) {
  const queries = useQueryClient();
  return useMutation({
    mutationFn: write,
    onSuccess: (people) => {
      queries.setQueryData(peopleQuery.queryKey, people);
      void queries.invalidateQueries(meQuery);
    },
  });
}

export const useAddPerson = () =>
  usePeopleWrite((body: Schemas["PersonSent"]) =>
    answered(client.POST("/api/v1/people", { body })),
  );

export const useRemovePerson = () =>
  usePeopleWrite((id: string) =>
    answered(
      client.POST("/api/v1/people/{id}/remove", { params: { path: { id } } }),
    ),
  );

export const useAskHere = () =>
  usePeopleWrite((ask: boolean) =>
    answered(client.POST("/api/v1/ask-here", { body: { ask } })),
  );
