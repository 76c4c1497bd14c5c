import { useQueryClient } from "@tanstack/react-query";
import { useRef, useState, useSyncExternalStore } from "react";
import { discard, outbox, send } from "../../api/outbox";
import type { Of, Sent } from "../../api/records";
import type { Schemas, TrialView } from "../../api/client";
import { noteSaved } from "../../frame/saved";
import { typed } from "../../marks/number";
import { refreshTrial, tendQuery } from "../../queries/trial";
import { text } from "../../text/en";
import { objectionTo, type Said } from "./objections";

/** A cell of the grid: a reading of one unit, or of one of the crops in it. Cells are told by unit, never by row. */
export interface Place {
  code: string;
  reading: string;
  crop: number | null;
  sample: number | null;
}

/** An entry on its way to the server. */
interface Flight {
  value: number | null;
  confirmed: boolean;
  again: boolean;
  done: Promise<void>;
}

interface Asked {
  value: number | null;
  confirmed: boolean;
  /** Writes on top of what stands there now, whatever it is. */
  over: boolean;
  /** Stands beside what was read on this day before. */
  again: boolean;
}

const without = <T>(all: Record<string, T>, key: string): Record<string, T> =>
  Object.fromEntries(Object.entries(all).filter(([k]) => k !== key));

/** Whether a record that waits is the reading of a place on a day. */
function isOf(own: Sent, place: Place, day: number): own is Of<"reading"> {
  const { head } = own;
  const same =
    head?.unit === place.code &&
    (head.crop ?? null) === place.crop &&
    (head.sample ?? null) === place.sample;
  return (
    own.kind === "reading" &&
    same &&
    head.day === day &&
    own.body.reading === place.reading
  );
}

/** What waits on this device for an answer. */
function useWaiting(trial: TrialView, day: number) {
  const box = useSyncExternalStore(outbox.subscribe, outbox.kept);
  const readingOf = (place: Place) => {
    const own = box.waiting
      .filter((row) => row.trial === trial.id)
      .flatMap((row) => ("records" in row ? row.records : []));
    return own.find((record): record is Of<"reading"> =>
      isOf(record, place, day),
    );
  };
  return {
    isKept: (place: Place) => readingOf(place) !== undefined,
    waits: (place: Place): number | null =>
      readingOf(place)?.body.value ?? null,
  };
}

/** What the server holds of a cell and its column, as far as it was asked. */
function useCells(trial: TrialView, day: number) {
  const queries = useQueryClient();
  const viewNow = () =>
    queries.getQueryData(tendQuery(trial.id, day).queryKey) ??
    queries.getQueryData(tendQuery(trial.id, null).queryKey);
  const isOf = (place: Place) => (r: Schemas["Column"]) =>
    r.key === place.reading && (r.crop ?? null) === place.crop;
  return {
    columnOf: (place: Place) => viewNow()?.readings.find(isOf(place)),
    cellNow: (place: Place): Schemas["Cell"] | undefined => {
      const view = viewNow();
      const column = view?.readings.findIndex(isOf(place)) ?? -1;
      const rows = view?.rows.filter((r) => r.unit.code === place.code) ?? [];
      return (
        (rows.find((r) => (r.sample ?? null) === place.sample) ?? rows[0])
          ?.cells[column] ?? undefined
      );
    },
  };
}

/** What is said of a record that was refused. */
function saidOf(
  { code, detail, stored }: Schemas["Problem"],
  key: string,
  value: number | null,
): Said {
  if (code === "unlikely" && value !== null) {
    return { kind: "ask", message: detail, value, key };
  }
  return code === "stale"
    ? { kind: "stale", message: text.tend.stale(stored ?? ""), value, key }
    : { kind: "wrong", message: detail, key };
}

/** Sends the entries of cells, those of one cell one after the other, so that nobody clashes with their own last entry. */
function useSending(
  trial: TrialView,
  day: number,
  keyOf: (place: Place) => string,
  cellNow: (place: Place) => Schemas["Cell"] | undefined,
) {
  const queries = useQueryClient();
  const [drafts, setDrafts] = useState<Record<string, string>>({});
  const [said, setSaid] = useState<Record<string, Said>>({});
  const flights = useRef(new Map<string, Flight>());

  const put = async (
    place: Place,
    { value, confirmed, over, again }: Asked,
  ) => {
    const key = keyOf(place);
    setSaid((all) => without(all, key));
    if (over) {
      await refreshTrial(queries, trial.id);
    }
    const { code: unit, crop, sample, reading } = place;
    const head = {
      unit,
      crop,
      sample,
      day,
      confirmed,
      version: cellNow(place)?.version ?? 0,
    };
    const outcome = await send({
      trial: trial.id,
      records: [{ kind: "reading", head, body: { reading, value, again } }],
    });
    switch (outcome.state) {
      case "saved":
        noteSaved();
        await refreshTrial(queries, trial.id);
        // What was typed into the field meanwhile stays.
        setDrafts((all) =>
          typed(all[key] ?? "") === value ? without(all, key) : all,
        );
        return;
      case "kept":
        return;
      case "refused":
        setSaid((all) => ({
          ...all,
          [key]: saidOf(outcome.problem, outcome.key, value),
        }));
    }
  };

  const record = (place: Place, asked: Asked): void => {
    const key = keyOf(place);
    const before = flights.current.get(key);
    if (
      before?.value === asked.value &&
      before.confirmed === asked.confirmed &&
      before.again === asked.again &&
      !asked.over
    ) {
      // Enter sends, and leaving the field right after would send the same again.
      return;
    }
    const done = (before?.done ?? Promise.resolve())
      .then(() =>
        put(place, { ...asked, over: asked.over || before !== undefined }),
      )
      .finally(() => {
        if (flights.current.get(key)?.done === done) {
          flights.current.delete(key);
        }
      });
    flights.current.set(key, {
      value: asked.value,
      confirmed: asked.confirmed,
      again: asked.again,
      done,
    });
  };
  return { drafts, setDrafts, said, setSaid, record };
}

interface Taking {
  drafts: Record<string, string>;
  said: Record<string, Said>;
  setSaid: (
    change: (all: Record<string, Said>) => Record<string, Said>,
  ) => void;
  more: Record<string, true>;
  keyOf: (place: Place) => string;
  columnOf: (place: Place) => Schemas["Column"] | undefined;
  cellNow: (place: Place) => Schemas["Cell"] | undefined;
  waits: (place: Place) => number | null;
  put: (
    place: Place,
    value: number | null,
    confirmed: boolean,
    over?: boolean,
  ) => void;
  forget: (key: string) => void;
}

/** Takes what is typed into a cell. Returns whether one may walk on. */
function taking({
  drafts,
  said,
  setSaid,
  more,
  keyOf,
  columnOf,
  cellNow,
  waits,
  put,
  forget,
}: Taking) {
  return (place: Place): boolean => {
    const key = keyOf(place);
    const [draft, standing] = [drafts[key], said[key]];
    if (standing?.kind === "stale") {
      put(place, standing.value, true, true);
      return true;
    }
    if (draft === undefined) {
      return true;
    }
    const value = typed(draft);
    const stands = waits(place) ?? cellNow(place)?.value;
    if (value === null || (stands === value && !more[key])) {
      forget(key);
      return true;
    }
    // Asked once here; Enter again is the answer that it is right.
    const answered = standing?.kind === "ask" && standing.value === value;
    const objection = objectionTo(value, columnOf(place), cellNow(place));
    if (objection && !(answered && objection.kind === "ask")) {
      setSaid((all) => ({ ...all, [key]: objection }));
      return false;
    }
    put(place, value, answered);
    return true;
  };
}

/** What is typed into the grid of a day, what is on its way, and what was said of it. */
export function useEntries(trial: TrialView, day: number) {
  const keyOf = (place: Place) =>
    `${day}/${place.code}/${place.reading}/${place.crop ?? 0}/${place.sample ?? 0}`;
  const { isKept, waits } = useWaiting(trial, day);
  const { cellNow, columnOf } = useCells(trial, day);
  const { drafts, setDrafts, said, setSaid, record } = useSending(
    trial,
    day,
    keyOf,
    cellNow,
  );
  const [more, setMore] = useState<Record<string, true>>({});
  /** Records, as one more of the day where that was asked for. */
  const put: Taking["put"] = (place, value, confirmed, over = false) => {
    const key = keyOf(place);
    record(place, { value, confirmed, over, again: more[key] === true });
    setMore((all) => without(all, key));
  };
  const forget = (key: string) => {
    setSaid((all) => without(all, key));
    setDrafts((all) => without(all, key));
    setMore((all) => without(all, key));
  };
  const take = taking({
    drafts,
    said,
    setSaid,
    more,
    keyOf,
    columnOf,
    cellNow,
    waits,
    put,
    forget,
  });

  return {
    take,
    draftOf: (place: Place) => drafts[keyOf(place)],
    saidOf: (place: Place) => said[keyOf(place)],
    isKept,
    waits,
    /** What is typed, waits or stands in a cell, as a number. */
    valueOf: (place: Place): number | null => {
      const key = keyOf(place);
      const value =
        typed(drafts[key] ?? "") ??
        waits(place) ??
        cellNow(place)?.value ??
        null;
      return Number.isNaN(value) ? null : value;
    },
    type: (place: Place, value: string) =>
      setDrafts((all) => ({ ...all, [keyOf(place)]: value })),
    record: (place: Place, value: number | null, confirmed = false) =>
      put(place, value, confirmed),

    /** The next value of this cell stands beside those of the day. */
    readMore: (place: Place) => {
      setMore((all) => ({ ...all, [keyOf(place)]: true }));
      setDrafts((all) => ({ ...all, [keyOf(place)]: "" }));
    },
    readsMore: (place: Place): boolean => more[keyOf(place)] === true,

    /** Gives up what was typed, and what was refused of it. */
    forget: (place: Place) => {
      const key = keyOf(place);
      const refusedAs = said[key]?.key;
      if (refusedAs) {
        void discard(refusedAs);
      }
      forget(key);
    },
  };
}

export type Entries = ReturnType<typeof useEntries>;
