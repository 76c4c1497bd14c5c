import { useQuery } from "@tanstack/react-query";
import { Button, Input, Select } from "antd";
import { useCallback, useEffect, useRef, useState } from "react";
import type { Schemas, TrialView } from "../../api/client";
import { Trouble } from "../../frame/Trouble";
import { useTrial } from "../../frame/TrialFrame";
import { shown, typed } from "../../marks/number";
import { catalogueQuery, expectedQuery, pictureQuery, usePlan } from "../../queries/trial";
import { inDealt, inWords } from "../../marks/words";
import { text } from "../../text/en";
import { JudgedDays } from "./JudgedDays";
import { PowerPicture } from "./PowerPicture";
import { Samples } from "./Samples";
import "./ask.css";

interface Draft {
  name: string;
  ask: Schemas["Ask"];
  margin: string;
  endDay: string;
  price: string;
  usual: string;
  outOf: string;
}

const draftOf = (trial: TrialView): Draft => ({
  name: trial.name,
  ask: trial.ask,
  margin: String(trial.ask.margin_money ?? trial.ask.margin.value),
  price: String(trial.ask.price_per_kg ?? ""),
  usual: String(trial.ask.usual_per_unit ?? ""),
  outOf: String(trial.ask.usual_out_of ?? ""),
  endDay: String(trial.ask.end_day),
});

/** The draft as the server takes it; null while a number is not readable. */
function ready(draft: Draft): { name: string; ask: Schemas["Ask"] } | null {
  const [margin, end] = [typed(draft.margin), typed(draft.endDay)];
  const [price, usual, outOf] = [typed(draft.price), typed(draft.usual), typed(draft.outOf)];
  if (margin === null || Number.isNaN(margin) || end === null || !Number.isInteger(end) || Number.isNaN(price) || Number.isNaN(usual) || Number.isNaN(outOf)) {
    return null;
  }
  const inMoney = typeof draft.ask.margin_money === "number";
  if (inMoney && price === null) {
    return null;
  }
  const ask = { ...draft.ask, end_day: end, price_per_kg: price, usual_per_unit: usual, usual_out_of: outOf };
  // Money is turned into the measure's unit by the program; what stands in its place until then is not looked at.
  return { name: draft.name, ask: inMoney ? { ...ask, margin_money: margin } : { ...ask, margin: { ...draft.ask.margin, value: margin } } };
}

const SAVE_AFTER_MS = 500;

export default function Ask() {
  const trial = useTrial();
  const [draft, setDraft] = useState(() => draftOf(trial));
  const [reason, setReason] = useState("");
  const { mutate, error, isPending } = usePlan(trial.id);
  const sealed = trial.sealed_at !== null;
  const opened = trial.reveal !== null;
  const sent = useRef(JSON.stringify(ready(draftOf(trial))));
  const plan = ready(draft);
  const now = JSON.stringify(plan);
  const waiting = useRef<string | null>(null);
  const save = useCallback(() => {
    if (waiting.current !== null) {
      sent.current = waiting.current;
      mutate({ part: "ask", ...(JSON.parse(waiting.current) as { name: string; ask: Schemas["Ask"] }), reason: null });
      waiting.current = null;
    }
  }, [mutate]);
  useEffect(() => {
    // Before the seal every pause in typing saves; afterwards a change wants its reason first.
    waiting.current = sealed || now === sent.current || now === "null" ? null : now;
    const timer = window.setTimeout(save, SAVE_AFTER_MS);
    return () => window.clearTimeout(timer);
  }, [now, sealed, save]);
  useEffect(() => {
    // Whoever walks on before the pause is over, or closes the page, must not lose the last words.
    window.addEventListener("pagehide", save);
    return () => {
      window.removeEventListener("pagehide", save);
      save();
    };
  }, [save]);
  const set = (change: Partial<Schemas["Ask"]>) => setDraft({ ...draft, ask: { ...draft.ask, ...change } });
  return (
    <div className="ask">
      <div>
        <Fields trial={trial} draft={draft} setDraft={setDraft} set={set} disabled={opened} />
        {sealed && !opened && <p className="under-fields">{text.ask.sealed}</p>}
        {opened && <p className="under-fields">{text.ask.opened}</p>}
        {sealed && !opened && now !== sent.current && plan && (
          <div className="reason">
            <label className="field">
              <span>{text.ask.reason}</span>
              <Input value={reason} onChange={(e) => setReason(e.target.value)} name="reason" />
            </label>
            <Button
              type="primary"
              loading={isPending}
              onClick={() => mutate({ part: "ask", ...plan, reason }, { onSuccess: () => (sent.current = now) })}
            >
              {text.ask.keepChange}
            </Button>
          </div>
        )}
        <Trouble error={error} />
        {trial.changes.length > 0 && (
          <>
            <h3>{text.ask.changes}</h3>
            <ul className="changes">
              {trial.changes.map((c) => (
                <li key={c.at + c.field}>
                  {text.ask.change(c.field, c.before, c.after)} <span>({c.reason})</span>
                </li>
              ))}
            </ul>
          </>
        )}
      </div>
      <Picture trial={trial} margin={plan?.ask.margin ?? trial.ask.margin} />
    </div>
  );
}

/** The margin in each of the three ways that are known. */
function marginSaid(trial: TrialView, measure: Schemas["Measure"] | undefined): string {
  const { percent, absolute, money } = trial.margin;
  const known = [
    typeof percent === "number" ? `${shown(percent, 1)} %` : "",
    typeof absolute === "number" ? `${shown(absolute, 1)} ${measure?.unit ?? ""}` : "",
    typeof money === "number" ? text.ask.money(shown(money, 2)) : "",
  ].filter(Boolean);
  return known.length > 1 ? text.ask.marginWays(known.join(" = ")) : text.ask.marginMore;
}

interface FieldsProps {
  trial: TrialView;
  draft: Draft;
  setDraft: (draft: Draft) => void;
  set: (change: Partial<Schemas["Ask"]>) => void;
  disabled: boolean;
}

function Fields({ trial, draft, setDraft, set, disabled }: FieldsProps) {
  const catalogue = useQuery(catalogueQuery);
  const { ask } = draft;
  const measure = catalogue.data?.measures.find((m) => m.key === ask.primary_measure);
  const chooseMeasure = (key: string) => {
    const next = catalogue.data?.measures.find((m) => m.key === key);
    const also = (ask.also ?? []).filter((other) => other !== key);
    // A margin keeps its sense: grades are compared in pairings, everything else in per cent of the control.
    const [kind, value] = next?.kind === "score" ? (["absolute", "0.1"] as const) : (["percent", ask.margin.kind === "percent" ? draft.margin : "10"] as const);
    setDraft({ ...draft, margin: value, ask: { ...ask, primary_measure: key, also, better: next?.better ?? ask.better, margin: { kind, value: Number(value) } } });
  };
  return (
    <fieldset disabled={disabled} className="fields">
      <label className="field wide">
        <span>{text.ask.question}</span>
        <Input.TextArea
          name="question" autoSize={{ minRows: 2, maxRows: 5 }} value={ask.question} placeholder={text.ask.questionHint}
          onChange={(e) => set({ question: e.target.value })} disabled={disabled}
        />
      </label>
      <label className="field wide">
        <span>{text.ask.hypothesis}</span>
        <Input.TextArea
          name="hypothesis" autoSize={{ minRows: 2, maxRows: 5 }} value={ask.hypothesis}
          onChange={(e) => set({ hypothesis: e.target.value })} disabled={disabled}
        />
      </label>
      <label className="field">
        <span>{text.ask.name}</span>
        <Input name="name" value={draft.name} onChange={(e) => setDraft({ ...draft, name: e.target.value })} />
      </label>
      <label className="field">
        <span>{text.ask.crop}</span>
        <Input name="crop" value={ask.crop} onChange={(e) => set({ crop: e.target.value })} />
      </label>
      <label className="field">
        <span>{text.ask.goal}</span>
        <Select
          value={(ask.seeks ?? "verdicts") === "verdicts" ? ask.goal : ask.seeks} disabled={disabled} id="goal"
          onChange={(chosen) =>
            chosen === "dose" ? set({ goal: "best", seeks: "dose" }) : chosen === "factors" ? set({ goal: "beat", seeks: "factors" }) : set({ goal: chosen as Schemas["Goal"], seeks: "verdicts" })
          }
          options={Object.entries(text.ask.goals).map(([value, label]) => ({ value, label }))}
        />
      </label>
      <div className="pair">
        <label className="field">
          <span>{text.ask.measure}</span>
          <Select
            value={ask.primary_measure} disabled={disabled} id="measure"
            onChange={(primary_measure) => chooseMeasure(primary_measure)}
            options={(catalogue.data?.measures ?? []).map((m) => ({ value: m.key, label: m.name }))}
          />
        </label>
        <label className="field">
          <span>{text.ask.better}</span>
          <Select
            value={ask.better} onChange={(better) => set({ better })} disabled={disabled}
            options={Object.entries(text.ask.betters).map(([value, label]) => ({ value: value as Schemas["Better"], label }))}
          />
        </label>
      </div>
      <label className="field wide">
        <span>{text.ask.also}</span>
        <Select
          mode="multiple" value={(ask.also ?? []).filter((key) => key !== ask.primary_measure)} disabled={disabled} id="also"
          onChange={(also) => set({ also })} optionFilterProp="label"
          options={(catalogue.data?.measures ?? []).filter((m) => m.key !== ask.primary_measure).map((m) => ({ value: m.key, label: m.name }))}
        />
      </label>
      <JudgedDays ask={ask} disabled={disabled} set={set} />
      <div className="pair margin">
        <label className="field">
          <span>{text.ask.margin}</span>
          <Input name="margin" inputMode="decimal" value={draft.margin} onChange={(e) => setDraft({ ...draft, margin: e.target.value })} />
        </label>
        <label className="field">
          <span>&nbsp;</span>
          <Select
            value={typeof ask.margin_money === "number" ? "money" : ask.margin.kind} disabled={disabled} aria-label={text.ask.margin} id="margin-kind"
            onChange={(kind) =>
              kind === "money" ? set({ margin_money: ask.margin.value }) : set({ margin_money: null, margin: { kind, value: ask.margin.value } as Schemas["Margin"] })
            }
            options={[
              { value: "percent", label: text.ask.marginKinds.percent },
              { value: "absolute", label: measure ? text.ask.marginUnit(measure) : "" },
              ...(measure?.unit === "g" ? [{ value: "money", label: inWords(trial, text.ask.marginMoney) }] : []),
            ]}
          />
        </label>
      </div>
      <div className="pair even">
        <label className="field">
          <span>{text.ask.end}</span>
          <Input name="end_day" inputMode="numeric" value={draft.endDay} onChange={(e) => setDraft({ ...draft, endDay: e.target.value })} />
        </label>
        <label className="field">
          <span>{text.ask.endStage}</span>
          <Input name="end_stage" value={ask.end_stage ?? ""} placeholder={text.ask.endStageHint} onChange={(e) => set({ end_stage: e.target.value })} />
        </label>
      </div>
      <div className="pair even">
        <label className="field">
          <span>{inWords(trial, text.ask.usual(measure?.kind ?? "amount", measure?.unit ?? "", (ask.crops_inside ?? []).length > 0))}</span>
          <Input name="usual_per_unit" inputMode="decimal" value={draft.usual} onChange={(e) => setDraft({ ...draft, usual: e.target.value })} />
        </label>
        {measure?.kind === "share" && (
          <label className="field">
            <span>{text.ask.outOf}</span>
            <Input name="usual_out_of" inputMode="decimal" value={draft.outOf} onChange={(e) => setDraft({ ...draft, outOf: e.target.value })} />
          </label>
        )}
        {measure?.unit === "g" && <label className="field">
          <span>{text.ask.price}</span>
          <Input name="price_per_kg" inputMode="decimal" value={draft.price} onChange={(e) => setDraft({ ...draft, price: e.target.value })} />
        </label>}
      </div>
      <p className="soft margin-said">{(measure?.kind ?? "amount") === "amount" && inWords(trial, marginSaid(trial, measure))}</p>
      <label className="field wide">
        <span>{inWords(trial, text.ask.cropsInside)}</span>
        <Select
          mode="tags" value={ask.crops_inside ?? []} disabled={disabled} id="crops-inside" placeholder={text.ask.cropsInsideHint} open={false} suffixIcon={null}
          tokenSeparators={[","]} onChange={(crops_inside) => set({ crops_inside })}
        />
      </label>
      <Samples trial={trial} ask={ask} disabled={disabled} set={set} />
    </fieldset>
  );
}

/** What a count, a share or days could show with so many units: by formula or by seasons played, as on the command line. */
function Foreseen({ trial, measure }: { trial: TrialView; measure: Schemas["Measure"] }) {
  const expected = useQuery(expectedQuery(trial.id, trial.version));
  const seen = expected.data;
  if (expected.error) {
    return <Trouble error={expected.error} />;
  }
  if (!seen) {
    return <p className="other-kind">{expected.isPending ? "" : text.ask.noForesight(measure.name)}</p>;
  }
  if (seen.kind === "lacks") {
    return <p className="other-kind">{inWords(trial, text.ask.lacks(seen.what))}</p>;
  }
  const { margin } = trial.ask;
  const asked = margin.kind === "percent" ? `${margin.value} %` : `${margin.value} ${measure.kind === "days" ? "days" : "points"}`;
  return (
    <div className="said">
      {typeof seen.smallest === "number" && (
        <p className="main">{inDealt(trial, (measure.kind === "share" ? text.ask.seesPoints : text.ask.sees)(trial.seen_each, shown(seen.smallest, 1)))}</p>
      )}
      <p>{text.ask.chanceOf(asked, shown(100 * seen.power, 0), trial.ask.goal === "match")}</p>
      {seen.power < 0.8 && typeof seen.units_needed === "number" && <p>{text.ask.neededOf(seen.units_needed, asked)}</p>}
      <p>{inDealt(trial, text.ask.floor(shown(1 / seen.smallest_possible_p, 0)))}</p>
      <p className="soft">{text.ask.scatter[measure.kind === "days" ? "days" : "tallies"]}</p>
      <p className="soft command">
        <code>{seen.command}</code>
      </p>
    </div>
  );
}

/** The live picture, with the number of trays beside it. */
function Picture({ trial, margin }: { trial: TrialView; margin: Schemas["Margin"] }) {
  const catalogue = useQuery(catalogueQuery);
  const plan = usePlan(trial.id);
  const measure = catalogue.data?.measures.find((m) => m.key === trial.ask.primary_measure);
  const { spread } = trial;
  const cv = spread.cv_percent;
  const byAmount = measure === undefined || measure.kind === "amount";
  // A margin in grams or money is a share of the usual yield, where that is known.
  const asked = margin.kind === "percent" ? margin.value : (trial.margin.percent ?? 10);
  const percent = asked > 0 && asked <= 1000 ? asked : 10;
  const body = {
    layout: trial.layout,
    units: trial.seen_each,
    cv_percent: cv,
    margin_percent: percent,
  };
  const picture = useQuery(pictureQuery(body));
  const view = picture.data;
  const sight = view && typeof view.planned === "number" ? view.sights[view.planned] : undefined;
  // Where whole levels are dealt, one more for each treatment takes as many levels as there are treatments.
  const levels = trial.rack.design === "fixtures" ? trial.sheet.treatments.length : 1;
  const step = (by: number) => plan.mutate({ part: "rack", rack: { ...trial.rack, levels: trial.rack.levels + by * levels } });
  const locked = trial.sealed_at !== null;
  return (
    <aside className="picture">
      <h2>{inDealt(trial, text.ask.pictureTitle)}</h2>
      <div className="stepper">
        <span>{inDealt(trial, text.ask.unitsEach)}</span>
        <button type="button" aria-label={text.ask.fewer} disabled={locked || trial.rack.levels <= levels} onClick={() => step(-1)}>
          −
        </button>
        <b data-testid="units-each">{trial.seen_each}</b>
        <button type="button" aria-label={text.ask.more} disabled={locked || trial.rack.levels + levels > 12} onClick={() => step(1)}>
          +
        </button>
      </div>
      {view && byAmount && <PowerPicture picture={view} axis={inDealt(trial, text.ask.axisUnits)} />}
      {!byAmount ? (
        <Foreseen trial={trial} measure={measure} />
      ) : sight ? (
        <div className="said">
          <p className="main">{inDealt(trial, text.ask.sees(sight.units, shown(sight.smallest_percent, 0)))}</p>
          <p>
            {text.ask.chance(shown(percent, percent % 1 ? 1 : 0), shown(100 * sight.power, 0))}{" "}
            {sight.power < 0.8 && typeof view?.units_needed === "number" && text.ask.needed(view.units_needed, shown(percent, percent % 1 ? 1 : 0))}
          </p>
          {trial.fixture && <p>{text.ask.lamps(trial.fixture, trial.units_word)}</p>}
          {trial.by_level && <p className="soft">{text.ask.byLevel(trial.dealt_word, trial.units_word)}</p>}
          <p>{inDealt(trial, text.ask.floor(shown(1 / sight.smallest_redeal_p, 0)))}</p>
          {margin.kind === "absolute" && typeof trial.margin.percent !== "number" && <p className="soft">{text.ask.absolute(measure?.unit ?? "")}</p>}
          <p className="soft">
            {inWords(trial, spread.trials > 0 ? text.ask.ownSpread(cv.toFixed(1), spread.trials, spread.low_percent ?? cv, spread.high_percent ?? cv) : text.ask.spread(cv))}
          </p>
        </div>
      ) : (
        <p>{inDealt(trial, text.ask.tooFew)}</p>
      )}
      <Trouble error={picture.error ?? plan.error} />
    </aside>
  );
}
