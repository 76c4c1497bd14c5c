import { ProblemError } from "../api/client";
import { Trouble } from "./Trouble";
import { text } from "../text/en";

interface OnceMoreProps {
  error: unknown;
  /** Sends it again as one that is meant. */
  confirm: () => void;
}

/** What was said of an entry; one that stands already for that day is asked about, and may be meant. */
export function OnceMore({ error, confirm }: OnceMoreProps) {
  const asked =
    error instanceof ProblemError && error.problem.code === "unlikely";
  return (
    <>
      <Trouble error={error} />
      {asked && (
        <button type="button" className="plain" onClick={confirm}>
          {text.tend.work.onceMore}
        </button>
      )}
    </>
  );
}
