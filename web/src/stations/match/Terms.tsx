import { Input, Select } from "antd";
import { useEffect, useState } from "react";
import type { Schemas, TrialView } from "../../api/client";
import { Badge } from "../../marks/Mark";
import { useIsOwner } from "../../queries/people";
import { text } from "../../text/en";

interface Props {
  trial: TrialView;
  sheet: Schemas["Sheet"];
  locked: boolean;
  commit: (sheet: Schemas["Sheet"]) => void;
}

function options<K extends string>(names: Record<K, string>) {
  return Object.entries(names).map(([value, label]) => ({
    value: value as K,
    label: label as string,
  }));
}

/** On what terms treatments are compared and cared for, and what the control can show. */
export function Terms({ trial, sheet, locked, commit }: Props) {
  const [waiver, setWaiver] = useState(sheet.waiver ?? "");
  useEffect(() => setWaiver(sheet.waiver ?? ""), [sheet.waiver]);
  const owner = useIsOwner();
  const kinds = trial.controls.filter(
    (c, i) => trial.controls.findIndex((o) => o.kind === c.kind) === i,
  );
  const plain = trial.controls.some((c) => c.kind === "plain_water");
  const keep = () => {
    if (waiver !== (sheet.waiver ?? "")) {
      commit({ ...sheet, waiver });
    }
  };
  return (
    <div className="terms">
      <section>
        {kinds.length > 0 && <h2>{text.match.controls}</h2>}
        {kinds.map((said) => (
          <p key={said.kind}>
            {trial.controls
              .filter((c) => c.kind === said.kind)
              .map((c) => (
                <span key={c.treatment} className="who">
                  <Badge treatment={c.treatment} />
                  <b>{trial.sheet.treatments[c.treatment]?.name}</b>
                </span>
              ))}
            {text.match.kinds[said.kind]}:{" "}
            {text.match.shows(said.shows, said.cannot)}
          </p>
        ))}
        {!plain && owner && (
          <label className="field">
            <span>{text.match.waiver}</span>
            <Input
              name="waiver"
              value={waiver}
              disabled={locked}
              placeholder={text.match.waiverHint}
              onChange={(e) => setWaiver(e.target.value)}
              onBlur={keep}
              onPressEnter={keep}
            />
          </label>
        )}
      </section>
      <section>
        <h2>{text.match.terms}</h2>
        <label className="field">
          <span>{text.match.basis}</span>
          <Select
            id="basis"
            value={sheet.basis ?? "label_rate"}
            disabled={locked}
            onChange={(basis) => commit({ ...sheet, basis })}
            options={options(text.match.bases)}
          />
        </label>
        <label className="field">
          <span>{text.match.careRule}</span>
          <Select
            id="care-rule"
            value={sheet.care ?? "identical"}
            disabled={locked}
            onChange={(care) => commit({ ...sheet, care })}
            options={options(text.match.cares)}
          />
        </label>
      </section>
    </div>
  );
}
