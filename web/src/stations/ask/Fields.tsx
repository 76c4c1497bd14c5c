import { useQuery } from "@tanstack/react-query";
import { Input, Select } from "antd";
import type { Schemas, TrialView } from "../../api/client";
import { shown } from "../../marks/number";
import { catalogueQuery } from "../../queries/trial";
import { inWords } from "../../marks/words";
import { text } from "../../text/en";
import type { Draft } from "./draft";
import { JudgedDays, PlannedLooks } from "./JudgedDays";
import { OwnMeasure } from "./OwnMeasure";
import { Samples } from "./Samples";
import { Waves } from "./Waves";

type Measure = Schemas["Measure"];

interface Props {
  trial: TrialView;
  draft: Draft;
  setDraft: (draft: Draft) => void;
  disabled: boolean;
}

interface PartProps extends Props {
  /** Changes something of what is asked. */
  set: (change: Partial<Schemas["Ask"]>) => void;
  measure: Measure | undefined;
}

/** All that is asked, from the question to what is followed inside a unit. */
export function Fields({ trial, draft, setDraft, disabled }: Props) {
  const catalogue = useQuery(catalogueQuery);
  const { ask } = draft;
  const set = (change: Partial<Schemas["Ask"]>) =>
    setDraft({ ...draft, ask: { ...ask, ...change } });
  const measure = catalogue.data?.measures.find(
    (m) => m.key === ask.primary_measure,
  );
  const parts = { trial, draft, setDraft, disabled, set, measure };
  return (
    <fieldset disabled={disabled} className="fields">
      <Question {...parts} />
      <Deciding {...parts} />
      <JudgedDays ask={ask} disabled={disabled} set={set} />
      <PlannedLooks ask={ask} disabled={disabled} set={set} />
      <Margin {...parts} />
      <End {...parts} />
      <Yields {...parts} />
      <p className="soft margin-said">
        {(measure?.kind ?? "amount") === "amount" &&
          inWords(trial, marginSaid(trial, measure))}
      </p>
      <label className="field wide">
        <span>{inWords(trial, text.ask.cropsInside)}</span>
        <Select
          mode="tags"
          value={ask.crops_inside ?? []}
          disabled={disabled}
          id="crops-inside"
          placeholder={text.ask.cropsInsideHint}
          open={false}
          suffixIcon={null}
          tokenSeparators={[","]}
          onChange={(crops_inside) => set({ crops_inside })}
        />
      </label>
      <Samples trial={trial} ask={ask} disabled={disabled} set={set} />
      <Waves ask={ask} disabled={disabled} set={set} />
    </fieldset>
  );
}

function Question({ draft, setDraft, set, disabled }: PartProps) {
  const { ask } = draft;
  return (
    <>
      <label className="field wide">
        <span>{text.ask.question}</span>
        <Input.TextArea
          name="question"
          autoSize={{ minRows: 2, maxRows: 5 }}
          value={ask.question}
          placeholder={text.ask.questionHint}
          onChange={(e) => set({ question: e.target.value })}
          disabled={disabled}
        />
      </label>
      <label className="field wide">
        <span>{text.ask.hypothesis}</span>
        <Input.TextArea
          name="hypothesis"
          autoSize={{ minRows: 2, maxRows: 5 }}
          value={ask.hypothesis}
          onChange={(e) => set({ hypothesis: e.target.value })}
          disabled={disabled}
        />
      </label>
      <label className="field">
        <span>{text.ask.name}</span>
        <Input
          name="name"
          value={draft.name}
          onChange={(e) => setDraft({ ...draft, name: e.target.value })}
        />
      </label>
      <label className="field">
        <span>{text.ask.crop}</span>
        <Input
          name="crop"
          value={ask.crop}
          onChange={(e) => set({ crop: e.target.value })}
        />
      </label>
    </>
  );
}

/** What the treatment should do, what decides, and what is recorded beside it. */
function Deciding({ draft, setDraft, set, disabled }: PartProps) {
  const catalogue = useQuery(catalogueQuery);
  const { ask } = draft;
  const measures = catalogue.data?.measures ?? [];
  const chooseMeasure = (key: string) => {
    const next = measures.find((m) => m.key === key);
    const limits = catalogue.data?.limits;
    const also = (ask.also ?? []).filter((other) => other !== key);
    // A margin keeps its sense: grades are compared in pairings, everything else in per cent of the control.
    const percent =
      ask.margin.kind === "percent"
        ? draft.margin
        : String(limits?.margin_percent ?? "");
    const [kind, value] =
      next?.kind === "score"
        ? (["absolute", String(limits?.margin_pairings ?? "")] as const)
        : (["percent", percent] as const);
    setDraft({
      ...draft,
      margin: value,
      ask: {
        ...ask,
        primary_measure: key,
        also,
        better: next?.better ?? ask.better,
        margin: { kind, value: Number(value) },
      },
    });
  };
  const chooseGoal = (chosen: string) =>
    chosen === "dose"
      ? set({ goal: "best", seeks: "dose" })
      : chosen === "factors"
        ? set({ goal: "beat", seeks: "factors" })
        : set({ goal: chosen as Schemas["Goal"], seeks: "verdicts" });
  return (
    <>
      <label className="field">
        <span>{text.ask.goal}</span>
        <Select
          value={
            (ask.seeks ?? "verdicts") === "verdicts" ? ask.goal : ask.seeks
          }
          disabled={disabled}
          id="goal"
          onChange={chooseGoal}
          options={Object.entries(text.ask.goals).map(([value, label]) => ({
            value,
            label,
          }))}
        />
      </label>
      <div className="pair">
        <label className="field">
          <span>{text.ask.measure}</span>
          <Select
            value={ask.primary_measure}
            disabled={disabled}
            id="measure"
            onChange={chooseMeasure}
            options={measures.map((m) => ({ value: m.key, label: m.name }))}
          />
        </label>
        <label className="field">
          <span>{text.ask.better}</span>
          <Select
            value={ask.better}
            onChange={(better) => set({ better })}
            disabled={disabled}
            options={Object.entries(text.ask.betters).map(([value, label]) => ({
              value: value as Schemas["Better"],
              label,
            }))}
          />
        </label>
      </div>
      <label className="field wide">
        <span>{text.ask.also}</span>
        <Select
          mode="multiple"
          value={(ask.also ?? []).filter((key) => key !== ask.primary_measure)}
          disabled={disabled}
          id="also"
          onChange={(also) => set({ also })}
          optionFilterProp="label"
          options={measures
            .filter((m) => m.key !== ask.primary_measure)
            .map((m) => ({ value: m.key, label: m.name }))}
        />
      </label>
      {!disabled && (
        <OwnMeasure
          onMade={(key) =>
            set({
              also: [...(ask.also ?? []).filter((other) => other !== key), key],
            })
          }
        />
      )}
    </>
  );
}

function Margin({ trial, draft, setDraft, set, disabled, measure }: PartProps) {
  const { ask } = draft;
  return (
    <div className="pair margin">
      <label className="field">
        <span>{text.ask.margin}</span>
        <Input
          name="margin"
          inputMode="decimal"
          value={draft.margin}
          onChange={(e) => setDraft({ ...draft, margin: e.target.value })}
        />
      </label>
      <label className="field">
        <span>&nbsp;</span>
        <Select
          value={
            typeof ask.margin_money === "number" ? "money" : ask.margin.kind
          }
          disabled={disabled}
          aria-label={text.ask.margin}
          id="margin-kind"
          onChange={(kind) =>
            kind === "money"
              ? set({ margin_money: ask.margin.value })
              : set({
                  margin_money: null,
                  margin: {
                    kind,
                    value: ask.margin.value,
                  } as Schemas["Margin"],
                })
          }
          options={[
            { value: "percent", label: text.ask.marginKinds.percent },
            {
              value: "absolute",
              label: measure ? text.ask.marginUnit(measure) : "",
            },
            ...(measure?.unit === "g"
              ? [
                  {
                    value: "money",
                    label: inWords(trial, text.ask.marginMoney),
                  },
                ]
              : []),
          ]}
        />
      </label>
    </div>
  );
}

function End({ draft, setDraft, set }: PartProps) {
  return (
    <div className="pair even">
      <label className="field">
        <span>{text.ask.end}</span>
        <Input
          name="end_day"
          inputMode="numeric"
          value={draft.endDay}
          onChange={(e) => setDraft({ ...draft, endDay: e.target.value })}
        />
      </label>
      <label className="field">
        <span>{text.ask.endStage}</span>
        <Input
          name="end_stage"
          value={draft.ask.end_stage ?? ""}
          placeholder={text.ask.endStageHint}
          onChange={(e) => set({ end_stage: e.target.value })}
        />
      </label>
    </div>
  );
}

/** What a unit usually shows, and what it brings. */
function Yields({ trial, draft, setDraft, measure }: PartProps) {
  const { ask } = draft;
  const usual = text.ask.usual(
    measure?.kind ?? "amount",
    measure?.unit ?? "",
    (ask.crops_inside ?? []).length > 0,
  );
  return (
    <div className="pair even">
      <label className="field">
        <span>
          {ask.weigh_samples && measure?.unit === "g"
            ? text.ask.usualPlant
            : inWords(trial, usual)}
        </span>
        <Input
          name="usual_per_unit"
          inputMode="decimal"
          value={draft.usual}
          onChange={(e) => setDraft({ ...draft, usual: e.target.value })}
        />
      </label>
      {measure?.kind === "share" && (
        <label className="field">
          <span>{text.ask.outOf}</span>
          <Input
            name="usual_out_of"
            inputMode="decimal"
            value={draft.outOf}
            onChange={(e) => setDraft({ ...draft, outOf: e.target.value })}
          />
        </label>
      )}
      {measure?.unit === "g" && (
        <label className="field">
          <span>{text.ask.price}</span>
          <Input
            name="price_per_kg"
            inputMode="decimal"
            value={draft.price}
            onChange={(e) => setDraft({ ...draft, price: e.target.value })}
          />
        </label>
      )}
    </div>
  );
}

/** The margin in each of the three ways that are known. */
function marginSaid(trial: TrialView, measure: Measure | undefined): string {
  const { percent, absolute, money } = trial.margin;
  const known = [
    typeof percent === "number" ? `${shown(percent, 1)} %` : "",
    typeof absolute === "number"
      ? `${shown(absolute, 1)} ${measure?.unit ?? ""}`
      : "",
    typeof money === "number" ? text.ask.money(shown(money, 2)) : "",
  ].filter(Boolean);
  return known.length > 1
    ? text.ask.marginWays(known.join(" = "))
    : text.ask.marginMore;
}
