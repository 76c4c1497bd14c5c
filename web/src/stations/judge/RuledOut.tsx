import { AutoComplete, Button, Input, Select } from "antd";
import { useState } from "react";
import type { Schemas, TrialView } from "../../api/client";
import { text } from "../../text/en";

type Card = Schemas["Scorecard"];

interface Props {
  trial: TrialView;
  card: Card;
  setting: string;
  owner: boolean;
  change: (card: Card) => void;
}

/** Treatments that are out of the question whatever they gave, with the reason, its date and what shows it. */
export function RuledOut({ trial, card, setting, owner, change }: Props) {
  const words = text.scorecard;
  const outs = card.knock_outs ?? [];
  return (
    <details className="ruled-out" open={outs.length > 0}>
      <summary>{words.out}</summary>
      <ul>
        {outs.map((own, i) => (
          <li key={`${own.treatment} ${own.why} ${own.setting ?? ""}`}>
            <b>{own.treatment}</b>: {own.why}
            {words.outIn(own.setting ?? null)}
            {own.on ? `, ${own.on}` : ""}
            {own.proof ? `, ${own.proof}` : ""}{" "}
            {owner && (
              <button
                type="button"
                className="plain"
                aria-label={words.outTake(own.treatment)}
                onClick={() =>
                  change({
                    ...card,
                    knock_outs: outs.filter((_, o) => o !== i),
                  })
                }
              >
                ×
              </button>
            )}
          </li>
        ))}
      </ul>
      {owner && (
        <Ruling
          trial={trial}
          setting={setting}
          add={(out) => change({ ...card, knock_outs: [...outs, out] })}
        />
      )}
    </details>
  );
}

function Ruling({
  trial,
  setting,
  add,
}: {
  trial: TrialView;
  setting: string;
  add: (out: Schemas["KnockOut"]) => void;
}) {
  const words = text.scorecard;
  const [treatment, setTreatment] = useState<string | null>(null);
  const [why, setWhy] = useState("");
  const [on, setOn] = useState("");
  const [proof, setProof] = useState("");
  const [where, setWhere] = useState<string | null>(null);
  return (
    <div className="guess-row">
      <label className="field">
        <span>{words.outTreatment}</span>
        <Select
          value={treatment}
          onChange={setTreatment}
          aria-label={words.outTreatment}
          options={trial.sheet.treatments.map((t) => ({
            value: t.name,
            label: t.name,
          }))}
        />
      </label>
      <label className="field">
        <span>{words.outReason}</span>
        <AutoComplete
          value={why}
          onChange={setWhy}
          aria-label={words.outReason}
          options={words.outWhy.map((value) => ({ value }))}
        />
      </label>
      <label className="field">
        <span>{words.outOn}</span>
        <Input
          type="date"
          name="out-on"
          value={on}
          onChange={(e) => setOn(e.target.value)}
        />
      </label>
      <label className="field">
        <span>{words.outProof}</span>
        <Input
          name="out-proof"
          value={proof}
          maxLength={200}
          onChange={(e) => setProof(e.target.value)}
        />
      </label>
      <label className="field">
        <span>{words.settings}</span>
        <Select
          value={where ?? ""}
          onChange={(value) => setWhere(value === "" ? null : value)}
          aria-label={words.settings}
          options={[
            { value: "", label: words.everywhere },
            { value: setting, label: setting },
          ]}
        />
      </label>
      <Button
        disabled={treatment === null || why.trim() === ""}
        onClick={() => {
          if (treatment !== null) {
            add({
              treatment,
              why: why.trim(),
              on: on || null,
              proof: proof.trim(),
              setting: where,
            });
            setTreatment(null);
            setWhy("");
          }
        }}
      >
        {words.outAdd}
      </Button>
    </div>
  );
}
