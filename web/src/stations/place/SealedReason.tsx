import { Input } from "antd";
import { useState, type ReactNode } from "react";
import type { TrialView } from "../../api/client";
import { text } from "../../text/en";

/** Why figures of places are set after the first record: asked for then, and not before. */
export function useSealedReason(trial: TrialView): {
  wanted: boolean;
  reason: string | null;
  field: ReactNode;
} {
  const [draft, setDraft] = useState("");
  const sealed = trial.sealed_at !== null && trial.reveal === null;
  const reason = draft.trim() === "" ? null : draft.trim();
  const field = sealed && (
    <label className="field within">
      <span>{text.place.sealedReason}</span>
      <Input
        name="place-reason"
        value={draft}
        onChange={(e) => setDraft(e.target.value)}
      />
    </label>
  );
  return {
    wanted: sealed && reason === null,
    reason: sealed ? reason : null,
    field,
  };
}
