import {
  queryOptions,
  useMutation,
  useQuery,
  useQueryClient,
} from "@tanstack/react-query";
import { useSyncExternalStore } from "react";
import { answered, client, type Schemas } from "../api/client";

export type Showing = Schemas["Showing"];

export const instrumentsQuery = queryOptions({
  queryKey: ["instruments"],
  queryFn: () => answered(client.GET("/api/v1/instruments")),
});

function useInstrumentsWrite<A>(
  write: (sent: A) => Promise<Schemas["InstrumentsView"]>,
) {
  const queries = useQueryClient();
  return useMutation({
    mutationFn: write,
    onSuccess: (view) => queries.setQueryData(instrumentsQuery.queryKey, view),
  });
}

export const useKeepInstrument = () =>
  useInstrumentsWrite(
    ({ no, body }: { no: number | null; body: Schemas["InstrumentSent"] }) =>
      answered(
        no === null
          ? client.POST("/api/v1/instruments", { body })
          : client.PUT("/api/v1/instruments/{no}", {
              params: { path: { no } },
              body,
            }),
      ),
  );

export const useRemoveInstrument = () =>
  useInstrumentsWrite((no: number) =>
    answered(
      client.DELETE("/api/v1/instruments/{no}", { params: { path: { no } } }),
    ),
  );

/** Takes what lies on a scale for a unit: never what moves, is old, or was taken for another. */
export const takeWeight = (no: number, unit: string) =>
  answered(
    client.POST("/api/v1/instruments/{no}/take", {
      params: { path: { no } },
      body: { unit },
    }),
  );

export const useSwitch = () =>
  useMutation({
    mutationFn: ({ no, body }: { no: number; body: Schemas["SwitchSent"] }) =>
      answered(
        client.POST("/api/v1/instruments/{no}/switch", {
          params: { path: { no } },
          body,
        }),
      ),
  });

/** What came longer ago than this is old: the server speaks at least once a second. */
const OLD_MS = 2500;

type Live = Map<number, Showing> | null;

/**
 * One line to the server for the whole page, while somebody listens and the page is in sight: a browser keeps few lines to
 * one place, and a page in the background must not hold one.
 */
const stream = (() => {
  const listeners = new Set<() => void>();
  let source: EventSource | undefined;
  let now: Live = null;
  let old: ReturnType<typeof setTimeout> | undefined;
  let again: ReturnType<typeof setTimeout> | undefined;
  const tell = (live: Live) => {
    now = live;
    listeners.forEach((listener) => listener());
  };
  const open = () => {
    source = new EventSource("/api/v1/instruments/live");
    source.onmessage = (event: MessageEvent<string>) => {
      clearTimeout(old);
      old = setTimeout(() => tell(null), OLD_MS);
      tell(
        new Map((JSON.parse(event.data) as Showing[]).map((s) => [s.no, s])),
      );
    };
    source.onerror = () => {
      // A browser gives up on an answer that is an error, such as while somebody signs in: it is asked again.
      if (source?.readyState === EventSource.CLOSED) {
        clearTimeout(again);
        again = setTimeout(keep, OLD_MS);
      }
    };
  };
  const close = () => {
    clearTimeout(old);
    clearTimeout(again);
    source?.close();
    source = undefined;
  };
  const keep = () => {
    close();
    if (listeners.size > 0 && document.visibilityState === "visible") {
      open();
    } else if (now !== null) {
      tell(null);
    }
  };
  document.addEventListener("visibilitychange", keep);
  const subscribe = (listener: () => void) => {
    listeners.add(listener);
    if (listeners.size === 1) {
      keep();
    }
    return () => {
      listeners.delete(listener);
      if (listeners.size === 0) {
        close();
        now = null;
      }
    };
  };
  return { subscribe, now: () => now };
})();

const nobody = () => () => undefined;
const nothing = () => null;

/** What the instruments show, as it comes; null while nothing comes, so that nothing old is shown as if it were now. */
export function useLive(wanted: boolean): Live {
  return useSyncExternalStore(
    wanted ? stream.subscribe : nobody,
    wanted ? stream.now : nothing,
  );
}

/** What the probes show now, by what they measure; null where none is connected. */
export function useProbe(): Map<
  Schemas["Measured"],
  Schemas["MeterValue"]
> | null {
  const all = useQuery(instrumentsQuery).data?.instruments ?? [];
  const probes = all.filter((i) => i.kind === "probe");
  const live = useLive(probes.length > 0);
  if (probes.length === 0) {
    return null;
  }
  const values = probes.flatMap((p) => live?.get(p.no)?.values ?? []);
  // Of two probes that measure the same, the one that says something.
  return new Map(
    values
      .filter((v) => typeof v.value === "number")
      .map((v) => [v.measures, v]),
  );
}

/** A value that may be taken: one that stands still, and is not the same to the last digit for minutes. */
export const mayBeTaken = (
  value: Schemas["MeterValue"] | undefined,
): value is Schemas["MeterValue"] & { value: number } =>
  value !== undefined &&
  typeof value.value === "number" &&
  value.still &&
  !value.frozen;
