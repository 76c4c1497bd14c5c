import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import type { Schemas } from "../../api/client";
import { useChoice } from "../../marks/useChoice";
import {
  instrumentsQuery,
  useLive,
  type Showing,
} from "../../queries/instruments";

/** The scale that is used here, and what it shows. */
export interface ScaleInUse {
  all: Schemas["InstrumentView"][];
  device: Schemas["InstrumentView"] | null;
  /** What it shows; null while the program does not say. */
  showing: Showing | null;
  choose: (no: string) => void;
  /** Whether weights are typed all the same, until one says otherwise. */
  byHand: boolean;
  setByHand: (on: boolean) => void;
  /** Page on which stand-ins are played with. */
  bench: string | null;
}

/** No scale, though there are some. */
export const BY_HAND = "none";

export function useScale(): ScaleInUse {
  const instruments = useQuery(instrumentsQuery);
  const all = (instruments.data?.instruments ?? []).filter(
    (i) => i.kind === "scale",
  );
  const [chosen, choose] = useChoice(
    "weigh-scale",
    [BY_HAND, ...all.map((i) => String(i.no))],
    "",
  );
  const device =
    chosen === BY_HAND
      ? null
      : (all.find((i) => String(i.no) === chosen) ?? all[0] ?? null);
  const [byHand, setByHand] = useState(false);
  const live = useLive(device !== null);
  return {
    all,
    device,
    showing: (device && live?.get(device.no)) ?? null,
    choose,
    byHand,
    setByHand,
    bench: instruments.data?.bench ?? null,
  };
}
