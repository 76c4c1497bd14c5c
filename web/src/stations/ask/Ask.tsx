import { Button, Input } from "antd";
import { useCallback, useState } from "react";
import type { TrialView } from "../../api/client";
import { DecidedBefore } from "../../frame/DecidedBefore";
import { Trouble } from "../../frame/Trouble";
import { useTrial } from "../../frame/TrialFrame";
import { usePlan } from "../../queries/trial";
import { text } from "../../text/en";
import { Cautions } from "./Cautions";
import { draftOf, ready, type Ready, useSaving } from "./draft";
import { Fields } from "./Fields";
import { Picture } from "./Picture";
import "./ask.css";

export default function Ask() {
  const trial = useTrial();
  const [draft, setDraft] = useState(() => draftOf(trial));
  const [reason, setReason] = useState("");
  const { mutate, error, isPending } = usePlan(trial.id);
  const [sealed, opened] = [trial.sealed_at !== null, trial.reveal !== null];
  const plan = ready(draft);
  const put = useCallback(
    (next: Ready) => mutate({ part: "ask", ...next, reason: null }),
    [mutate],
  );
  const { changed, saved } = useSaving(plan, trial, sealed, put);
  return (
    <div className="ask">
      <div>
        <Fields
          trial={trial}
          draft={draft}
          setDraft={setDraft}
          disabled={opened}
        />
        {sealed && !opened && <p className="under-fields">{text.ask.sealed}</p>}
        {opened && <p className="under-fields">{text.ask.opened}</p>}
        {sealed && !opened && changed && plan && (
          <div className="reason">
            <label className="field">
              <span>{text.ask.reason}</span>
              <Input
                value={reason}
                onChange={(e) => setReason(e.target.value)}
                name="reason"
              />
            </label>
            <Button
              type="primary"
              loading={isPending}
              onClick={() =>
                mutate({ part: "ask", ...plan, reason }, { onSuccess: saved })
              }
            >
              {text.ask.keepChange}
            </Button>
          </div>
        )}
        <Trouble error={error} />
        <Changes trial={trial} />
      </div>
      <div>
        <Picture trial={trial} margin={plan?.ask.margin ?? trial.ask.margin} />
        <Cautions
          trial={trial}
          ask={draft.ask}
          disabled={opened}
          set={(change) =>
            setDraft((d) => ({ ...d, ask: { ...d.ask, ...change } }))
          }
        />
        <DecidedBefore trial={trial} />
      </div>
    </div>
  );
}

/** What was changed after the plan was sealed, and why. */
function Changes({ trial }: { trial: TrialView }) {
  if (trial.changes.length === 0) {
    return null;
  }
  return (
    <>
      <h3>{text.ask.changes}</h3>
      <ul className="changes">
        {trial.changes.map((c) => (
          <li key={c.at + c.field}>
            {text.ask.change(c.field, c.before, c.after)}{" "}
            <span>({c.reason})</span>
          </li>
        ))}
      </ul>
    </>
  );
}
