import { useEffect } from "react";
import type { TrialView } from "../api/client";
import { useUndo } from "../queries/trial";
import { text } from "../text/en";
import { Trouble } from "./Trouble";

const isField = (target: EventTarget | null) =>
  target instanceof HTMLElement &&
  target.closest("input, textarea, select, [contenteditable]") !== null;

interface Props {
  trial: TrialView;
  /** Whether Ctrl+Z means this inside a field as well: where every value is taken with Enter, there is no draft to step back in. */
  inFields?: boolean;
  /** Whether only a change of the plan is taken back here: a record is not in sight where plans are made. */
  plan?: boolean;
}

/** Takes back one's own last write to a trial: a record at the shelf, a change of the plan at the table. */
export function TakeBack({ trial, inFields = false, plan = false }: Props) {
  const undo = useUndo(trial.id);
  const { mutate, isPending } = undo;
  const last =
    trial.reveal === null && (!plan || trial.undo?.plan)
      ? (trial.undo?.action ?? null)
      : null;
  const can = last !== null && !isPending;
  useEffect(() => {
    const onKey = (event: KeyboardEvent) => {
      const asked =
        (event.ctrlKey || event.metaKey) && event.key.toLowerCase() === "z";
      if (asked && can && (inFields || !isField(event.target))) {
        event.preventDefault();
        mutate(undefined);
      }
    };
    window.addEventListener("keydown", onKey);
    return () => window.removeEventListener("keydown", onKey);
  }, [can, inFields, mutate]);
  return (
    <>
      {last !== null && (
        <button
          type="button"
          className="plain undo"
          disabled={isPending}
          onClick={() => mutate(undefined)}
        >
          {text.frame.takeBack(last)}
        </button>
      )}
      <Trouble error={undo.error} />
    </>
  );
}
