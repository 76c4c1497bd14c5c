import { useQuery } from "@tanstack/react-query";
import type { TrialView } from "../../api/client";
import { onlyColumns } from "../../marks/columns";
import { inWords } from "../../marks/words";
import { tendQuery } from "../../queries/trial";
import { text } from "../../text/en";
import { Grid } from "../tend/Grid";
import "../tend/tend.css";

/** What is weighed of the cut afterwards, where the plan asks for it: trimmed, dried. */
export function AfterCut({ trial }: { trial: TrialView }) {
  const view = useQuery(tendQuery(trial.id, null)).data;
  if (!view || typeof view.day !== "number") {
    return null;
  }
  const own = onlyColumns(view, (c) => c.after_cut);
  if (own.readings.length === 0) {
    return null;
  }
  return (
    <section className="after-cut" data-testid="after-cut">
      <h2>{text.weigh.afterCut}</h2>
      <p className="soft">{inWords(trial, text.weigh.afterCutWhy)}</p>
      <Grid trial={trial} day={view.day} {...own} />
    </section>
  );
}
