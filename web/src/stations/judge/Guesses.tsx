import { useQuery } from "@tanstack/react-query";
import { Button, Input, Select } from "antd";
import { useState } from "react";
import type { Schemas, TrialView } from "../../api/client";
import { Trouble } from "../../frame/Trouble";
import { shown, typed } from "../../marks/number";
import { Wide } from "../../marks/Wide";
import { inWords } from "../../marks/words";
import { guessesQuery } from "../../queries/guesses";
import { useEntry } from "../../queries/trial";
import { text } from "../../text/en";

type Guess = Schemas["GuessView"];

const NONE = "none";

/** What was guessed: one's own while the key is sealed, all of them with who was right once it is open. */
export function Guesses({ trial }: { trial: TrialView }) {
  const words = text.guesses;
  const found = useQuery(guessesQuery(trial.id));
  const view = found.data;
  const open = trial.reveal !== null;
  if (!view || (open && view.count === 0)) {
    return <Trouble error={found.error} />;
  }
  return (
    <section className="guesses">
      <h2>{words.title}</h2>
      {!open && (
        <p className="soft">
          {words.why} {words.count(view.count)}
        </p>
      )}
      {!open && <Making trial={trial} />}
      {view.guesses.length > 0 && (
        <Wide className="numbers" name={words.title}>
          <table>
            <thead>
              <tr>
                {words.columns.slice(0, open ? 4 : 3).map((c) => (
                  <th key={c} scope="col">
                    {c}
                  </th>
                ))}
              </tr>
            </thead>
            <tbody>
              {view.guesses.map((guess, i) => (
                <tr key={i}>
                  <th scope="row">{guess.name}</th>
                  <td>{words.on(guess.day)}</td>
                  <td>{said(trial, guess)}</td>
                  {open && <td>{became(guess)}</td>}
                </tr>
              ))}
            </tbody>
          </table>
        </Wide>
      )}
    </section>
  );
}

function said(trial: TrialView, guess: Guess): string {
  const words = text.guesses;
  const { expects } = guess;
  if (expects === "no_difference") {
    return words.none;
  }
  if ("unit" in expects) {
    return inWords(trial, words.unit(expects.unit));
  }
  const name = trial.sheet.treatments[expects.best]?.name ?? "";
  return (
    words.best(name) +
    (typeof guess.by_percent === "number"
      ? words.by_percent(guess.by_percent)
      : "")
  );
}

function became(guess: Guess): string {
  const words = text.guesses;
  const beside = [
    typeof guess.off_points === "number"
      ? words.off(shown(guess.off_points, 0))
      : "",
    typeof guess.place === "number" && typeof guess.of === "number"
      ? words.place(guess.place, guess.of)
      : "",
  ].filter((part) => part !== "");
  return [guess.outcome ? words.outcomes[guess.outcome] : "", ...beside].join(
    ", ",
  );
}

/** A guess as it is made. */
function Making({ trial }: { trial: TrialView }) {
  const words = text.guesses;
  const [name, setName] = useState("");
  const [choice, setChoice] = useState<string | null>(null);
  const [by, setBy] = useState("");
  const guess = useEntry(trial.id);
  const treatments = trial.sheet.treatments.map((t, i) => ({
    value: `best ${i}`,
    label: t.name,
  }));
  const units = trial.units
    .filter((u) => u.now && !u.lost)
    .map((u) => ({
      value: `unit ${u.code}`,
      label: inWords(trial, words.unit(u.code)),
    }));
  const amount = typed(by);
  const isBest = choice?.startsWith("best ") ?? false;
  const log = () => {
    const [kind, rest = ""] = (choice ?? NONE).split(/ (.*)/s);
    const expects: Schemas["GuessExpected"] =
      kind === "best"
        ? { best: Number(rest) }
        : kind === "unit"
          ? "unit"
          : "no_difference";
    const head = kind === "unit" ? { unit: rest } : {};
    const body = {
      name: name.trim(),
      expects,
      by_percent: isBest ? amount : null,
    };
    guess.mutate(
      { trial: trial.id, records: [{ kind: "guess", head, body }] },
      { onSuccess: () => setChoice(null) },
    );
  };
  return (
    <>
      <div className="guess-row">
        <label className="field">
          <span>{words.name}</span>
          <Input
            name="guess-name"
            value={name}
            placeholder={words.me}
            onChange={(e) => setName(e.target.value)}
          />
        </label>
        <label className="field">
          <span>{words.expects}</span>
          <Select
            value={choice}
            onChange={setChoice}
            aria-label={words.expects}
            popupMatchSelectWidth={false}
            options={[
              ...treatments,
              { value: NONE, label: words.none },
              ...units,
            ]}
          />
        </label>
        {isBest && (
          <label className="field">
            <span>{words.by}</span>
            <Input
              name="guess-by"
              inputMode="decimal"
              value={by}
              onChange={(e) => setBy(e.target.value)}
            />
          </label>
        )}
        <Button
          disabled={choice === null || Number.isNaN(amount)}
          loading={guess.isPending}
          onClick={log}
        >
          {words.log}
        </Button>
      </div>
      {guess.isSuccess && (
        <p role="status">
          {guess.data === "kept" ? text.tend.work.unsent : words.kept}
        </p>
      )}
      <Trouble error={guess.error} />
    </>
  );
}
