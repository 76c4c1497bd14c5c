import { cellOf } from "../../marks/cell";
import { useEffect, useState } from "react";
import type { Schemas, TrialView } from "../../api/client";

/** A line of the recipe as it is typed. */
export interface DraftLine {
  key: string;
  name: string;
  form: Schemas["FeedForm"];
  per_l: string;
}

/** What stands on the bench of a trial. It stays on this device until it is changed, so that walking on loses nothing. */
export interface Draft {
  name: string;
  lines: DraftLine[];
  /** The lines before the last replacement, to take it back. */
  before: DraftLine[];
  water: string;
  target: string;
  volume: string;
  temperature: string;
  times: string;
}

const keyOf = (trial: string) => `iron-twin.bench.${trial}`;

function kept(trial: string): Draft | null {
  try {
    return JSON.parse(
      localStorage.getItem(keyOf(trial)) ?? "null",
    ) as Draft | null;
  } catch {
    return null;
  }
}

/** The draft of a trial's bench; at first empty, with the trial's water and the target that fits its crop. */
export function useDraft(
  trial: TrialView,
  shelves: Schemas["ShelfView"][],
  volume: number,
  target: string,
) {
  const [draft, setDraft] = useState<Draft | null>(() => kept(trial.id));
  const ready = shelves.length > 0 && volume > 0;
  useEffect(() => {
    if (draft === null && ready) {
      const row = (key: string) =>
        trial.sheet.treatments.map((t) => cellOf(t, key));
      const waters =
        shelves.find((s) => s.key === "waters")?.items.map((i) => i.name) ?? [];
      setDraft({
        name: "",
        lines: [],
        before: [],
        target,
        volume: String(Number(volume.toFixed(2))),
        temperature: "20",
        times: "",
        water: row("water").find((w) => waters.includes(w)) ?? "",
      });
    }
  }, [draft, ready, shelves, target, trial.sheet, volume]);
  useEffect(() => {
    if (draft) {
      try {
        localStorage.setItem(keyOf(trial.id), JSON.stringify(draft));
      } catch {
        // A full or forbidden store: the bench works on, it only forgets when it is left.
      }
    }
  }, [draft, trial.id]);
  const set = (change: Partial<Draft>) =>
    setDraft((old) => old && { ...old, ...change });
  const line = (at: number, change: { per_l: string } | null) =>
    setDraft((old) => {
      if (!old) {
        return old;
      }
      // Taking an ingredient away can be taken back; typing a dose is its own undo.
      return change === null
        ? {
            ...old,
            before: old.lines,
            lines: old.lines.filter((_, i) => i !== at),
          }
        : {
            ...old,
            lines: old.lines.map((l, i) =>
              i === at ? { ...l, ...change } : l,
            ),
          };
    });
  const replaceLines = (lines: DraftLine[], name: string) =>
    setDraft((old) => old && { ...old, name, lines, before: old.lines });
  return { draft, set, line, replaceLines };
}
