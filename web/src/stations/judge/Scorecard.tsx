import { useQuery } from "@tanstack/react-query";
import { Button, Input, Select, Slider } from "antd";
import { useState } from "react";
import type { Schemas, TrialView } from "../../api/client";
import { Trouble } from "../../frame/Trouble";
import { Badge, colourOf } from "../../marks/Mark";
import { money, shown, typed } from "../../marks/number";
import { Wide } from "../../marks/Wide";
import { scorecardQuery, useScorecard } from "../../queries/next";
import { useIsOwner } from "../../queries/people";
import { text } from "../../text/en";
import { RuledOut } from "./RuledOut";

type View = Schemas["ScorecardView"];
type Card = Schemas["Scorecard"];

/** What counts beside the yield, for how much in which setting, and who comes out first. */
export function ScorecardTold({ trial }: { trial: TrialView }) {
  const words = text.scorecard;
  const found = useQuery(scorecardQuery(trial.id));
  const put = useScorecard(trial.id);
  const owner = useIsOwner();
  const [at, setAt] = useState(0);
  const view = found.data;
  if (!view) {
    return <Trouble error={found.error} />;
  }
  const settings = view.card.settings ?? [];
  const setting = settings[at] ?? settings[0];
  const ranking = view.outcome.rankings.find(
    (r) => r.setting === setting?.name,
  );
  if (!setting || !ranking) {
    return null;
  }
  const change = (card: Card) => put.mutate(card);
  return (
    <section className="scorecard">
      <h2>{words.title}</h2>
      <p className="soft">
        {words.why} {view.proposed && words.proposed}
      </p>
      <div role="tablist" aria-label={words.settings} className="settings">
        {settings.map((own, i) => (
          <button
            key={own.name}
            type="button"
            role="tab"
            aria-selected={own.name === setting.name}
            onClick={() => setAt(i)}
          >
            {own.name}
          </button>
        ))}
      </div>
      <Standings trial={trial} ranking={ranking} />
      {ranking.said.map((sentence, i) => (
        <p key={sentence} className={i === 0 ? "v" : undefined}>
          {sentence}
        </p>
      ))}
      <Criteria
        trial={trial}
        view={view}
        setting={setting}
        ranking={ranking}
        owner={owner}
        change={change}
      />
      {owner && <Adding view={view} change={change} />}
      <RuledOut
        trial={trial}
        card={view.card}
        setting={setting.name}
        owner={owner}
        change={change}
      />
      <Trouble error={put.error} />
    </section>
  );
}

/** The treatments, best first, with their points and how often they win. */
function Standings({
  trial,
  ranking,
}: {
  trial: TrialView;
  ranking: Schemas["Ranking"];
}) {
  const words = text.scorecard;
  return (
    <ol className="standings">
      {ranking.standings.map((own) => {
        const index = trial.sheet.treatments.findIndex(
          (t) => t.name === own.treatment,
        );
        return (
          <li key={own.treatment}>
            <span className="name">
              <Badge treatment={index} /> {own.treatment}
            </span>
            <span className="track">
              <span
                className="bar"
                style={{
                  width: `${Math.max(1, own.worth)}%`,
                  background: colourOf(index),
                }}
              />
            </span>
            <span>
              {shown(own.worth, 0)}{" "}
              <small className="soft">{words.worth}</small>
            </span>
            <span>
              {shown(own.wins, 0)} <small className="soft">{words.wins}</small>
            </span>
          </li>
        );
      })}
    </ol>
  );
}

interface CriteriaProps {
  trial: TrialView;
  view: View;
  setting: Schemas["ScorecardSetting"];
  ranking: Schemas["Ranking"];
  owner: boolean;
  change: (card: Card) => void;
}

/** What counts, with its weight and the figures of each treatment. */
function Criteria({
  trial,
  view,
  setting,
  ranking,
  owner,
  change,
}: CriteriaProps) {
  const words = text.scorecard;
  const criteria = view.card.criteria ?? [];
  const swung = (name: string, swing: number) =>
    change({
      ...view.card,
      settings: (view.card.settings ?? []).map((s) =>
        s.name === setting.name
          ? { ...s, swings: { ...s.swings, [name]: swing } }
          : s,
      ),
    });
  const without = (name: string) =>
    change({
      ...view.card,
      criteria: criteria.filter((c) => c.name !== name),
      settings: (view.card.settings ?? []).map((s) => ({
        ...s,
        swings: Object.fromEntries(
          Object.entries(s.swings ?? {}).filter(([of]) => of !== name),
        ),
      })),
    });
  const scoredBy = (name: string, treatment: string, score: number) =>
    change({
      ...view.card,
      criteria: criteria.map((c) =>
        c.name === name
          ? { ...c, scores: { ...c.scores, [treatment]: score } }
          : c,
      ),
    });
  return (
    <Wide className="numbers" name={words.counts}>
      <table>
        <thead>
          <tr>
            <th scope="col">{words.counts}</th>
            <th scope="col">{setting.name}</th>
            {trial.sheet.treatments.map((t) => (
              <th key={t.name} scope="col">
                {t.name}
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {criteria.map((own, row) => (
            <tr key={own.name}>
              <th scope="row">
                {own.name}{" "}
                <small className="soft">{words.better[own.better]}</small>{" "}
                {owner && (
                  <button
                    type="button"
                    className="plain"
                    aria-label={words.remove(own.name)}
                    onClick={() => without(own.name)}
                  >
                    ×
                  </button>
                )}
              </th>
              <td>
                <Swing
                  name={words.swing(own.name, setting.name)}
                  value={setting.swings?.[own.name] ?? 0}
                  disabled={!owner}
                  done={(swing) => swung(own.name, swing)}
                />
                <small>{words.share(shown(ranking.weights[row], 0))}</small>
              </td>
              {trial.sheet.treatments.map((t, i) => (
                <td key={t.name} className="figure">
                  {own.from === "own" && owner ? (
                    <Score
                      name={words.scoreOf(own.name, t.name)}
                      value={own.scores?.[t.name]}
                      done={(score) => scoredBy(own.name, t.name, score)}
                    />
                  ) : (
                    figure(own, view.outcome.scored[row], i)
                  )}
                </td>
              ))}
            </tr>
          ))}
        </tbody>
      </table>
    </Wide>
  );
}

function figure(
  own: Schemas["Criterion"],
  scored: Schemas["Scored"] | undefined,
  treatment: number,
): string {
  const found = scored?.figures[treatment];
  if (!found || !scored) {
    return text.scorecard.none;
  }
  return own.from === "cost"
    ? money(scored.unit, found.mean)
    : `${shown(found.mean, Math.abs(found.mean) < 10 ? 2 : 1)} ${scored.unit}`;
}

/** One drag; kept when it is let go. */
function Swing({
  name,
  value,
  disabled,
  done,
}: {
  name: string;
  value: number;
  disabled: boolean;
  done: (swing: number) => void;
}) {
  const [dragged, setDragged] = useState<number | null>(null);
  return (
    <Slider
      className="swing"
      min={0}
      max={100}
      step={5}
      value={dragged ?? value}
      disabled={disabled}
      ariaLabelForHandle={name}
      onChange={setDragged}
      onChangeComplete={(swing) => {
        setDragged(null);
        done(swing);
      }}
    />
  );
}

/** The grower's own score. */
function Score({
  name,
  value,
  done,
}: {
  name: string;
  value: number | undefined;
  done: (score: number) => void;
}) {
  const [draft, setDraft] = useState(value === undefined ? "" : String(value));
  const score = typed(draft);
  const fits = score !== null && score >= 0 && score <= 10;
  const keep = () => {
    if (fits && score !== value) {
      done(score);
    }
  };
  return (
    <Input
      className="score"
      size="small"
      inputMode="decimal"
      aria-label={name}
      status={draft !== "" && !fits ? "error" : ""}
      value={draft}
      onChange={(e) => setDraft(e.target.value)}
      onBlur={keep}
      onPressEnter={keep}
    />
  );
}

/** Something more that counts. */
function Adding({
  view,
  change,
}: {
  view: View;
  change: (card: Card) => void;
}) {
  const words = text.scorecard;
  const [own, setOwn] = useState<string | null>(null);
  const OWN = "\u0000own";
  const add = (criterion: Schemas["Criterion"]) =>
    change({
      ...view.card,
      criteria: [...(view.card.criteria ?? []), criterion],
    });
  const pick = (name: string) => {
    if (name === OWN) {
      setOwn("");
      return;
    }
    const offer = view.offers.find((o) => o.criterion.name === name);
    if (offer) {
      add(offer.criterion);
    }
  };
  return (
    <p className="row">
      <Select
        value={null}
        placeholder={words.add}
        aria-label={words.add}
        onChange={pick}
        popupMatchSelectWidth={false}
        options={[
          ...view.offers.map((o) => ({
            value: o.criterion.name,
            label: o.criterion.name,
          })),
          { value: OWN, label: words.own },
        ]}
      />
      {own !== null && (
        <>
          <Input
            name="own-criterion"
            aria-label={words.ownName}
            placeholder={words.ownName}
            value={own}
            maxLength={60}
            onChange={(e) => setOwn(e.target.value)}
          />
          <Button
            disabled={own.trim() === ""}
            onClick={() => {
              add({ name: own.trim(), from: "own", better: "higher" });
              setOwn(null);
            }}
          >
            {words.add}
          </Button>
        </>
      )}
    </p>
  );
}
