import { useQuery } from "@tanstack/react-query";
import { Button } from "antd";
import { useState } from "react";
import type { Schemas, TrialView } from "../../api/client";
import { Badge, colourOf } from "../../marks/Mark";
import { shown } from "../../marks/number";
import { inWords } from "../../marks/words";
import { guessesQuery } from "../../queries/guesses";
import { text } from "../../text/en";

/** The reveal: letters by rank first with the guesses beside them, then what they had, then the verdict. */
export function Moment({
  trial,
  view,
  done,
}: {
  trial: TrialView;
  view: Schemas["JudgeView"];
  done: () => void;
}) {
  const words = text.moment;
  const [named, setNamed] = useState(false);
  const guesses = useQuery(guessesQuery(trial.id)).data?.guesses ?? [];
  const sign = view.measure.better === "lower" ? 1 : -1;
  const ranked = [...view.dots].sort((a, b) => sign * (a.value - b.value));
  const most = Math.max(...ranked.map((d) => d.value), 1e-9);
  const ofUnit = (code: string) =>
    guesses.flatMap((g) =>
      typeof g.expects === "object" &&
      "unit" in g.expects &&
      g.expects.unit === code
        ? [g.name]
        : [],
    );
  const ofTreatments = guesses.flatMap((g) => {
    if (g.expects === "no_difference")
      return [words.better(text.guesses.none, g.name)];
    return "best" in g.expects
      ? [
          words.better(
            text.guesses.best(
              trial.sheet.treatments[g.expects.best]?.name ?? "",
            ),
            g.name,
          ),
        ]
      : [];
  });
  return (
    <section className="moment" aria-live="polite">
      <h2>{words.title}</h2>
      <p className="soft">{inWords(trial, words.why)}</p>
      <ol>
        {ranked.map((dot) => {
          const who = ofUnit(dot.code);
          const treatment = named ? (dot.treatment ?? null) : null;
          return (
            <li key={dot.code}>
              <b>{dot.code}</b>
              <span
                className="bar"
                style={{
                  width: `${Math.max(2, (45 * dot.value) / most)}%`,
                  background:
                    treatment === null ? undefined : colourOf(treatment),
                }}
              />
              <span>
                {shown(dot.value, view.measure.decimals)} {view.measure.unit}
              </span>
              {treatment !== null && (
                <span className="had">
                  <Badge treatment={treatment} />{" "}
                  {trial.sheet.treatments[treatment]?.name}
                </span>
              )}
              {who.length > 0 && <i>{words.guessed(who.join(", "))}</i>}
            </li>
          );
        })}
      </ol>
      {named && ofTreatments.length > 0 && (
        <p className="soft">{ofTreatments.join(" · ")}</p>
      )}
      <Button
        type="primary"
        size="large"
        onClick={named ? done : () => setNamed(true)}
      >
        {named ? words.go : words.show}
      </Button>
    </section>
  );
}
