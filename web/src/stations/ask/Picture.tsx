import { useQuery } from "@tanstack/react-query";
import type { Schemas, TrialView } from "../../api/client";
import { Trouble } from "../../frame/Trouble";
import { shown } from "../../marks/number";
import {
  catalogueQuery,
  expectedQuery,
  pictureQuery,
  usePlan,
} from "../../queries/trial";
import { inDealt, inWords } from "../../marks/words";
import { text } from "../../text/en";
import { PowerPicture } from "./PowerPicture";

/** The live picture, with the number of trays beside it. */
export function Picture({
  trial,
  margin,
}: {
  trial: TrialView;
  margin: Schemas["Margin"];
}) {
  const catalogue = useQuery(catalogueQuery);
  const measure = catalogue.data?.measures.find(
    (m) => m.key === trial.ask.primary_measure,
  );
  const byAmount = measure === undefined || measure.kind === "amount";
  // A margin in grams or money is a share of the usual yield, where that is known.
  const asked = margin.kind === "percent" ? margin.value : trial.margin.percent;
  const percent =
    typeof asked === "number" && asked > 0
      ? asked
      : (catalogue.data?.limits.margin_percent ?? 0);
  const picture = useQuery({
    ...pictureQuery({
      layout: trial.layout,
      units: trial.seen_each,
      goal: trial.ask.goal,
      cv_percent: trial.spread.cv_percent,
      margin_percent: percent,
    }),
    enabled: percent > 0,
  });
  const view = picture.data;
  const sight =
    view && typeof view.planned === "number"
      ? view.sights[view.planned]
      : undefined;
  return (
    <aside className="picture">
      <h2>{inDealt(trial, text.ask.pictureTitle)}</h2>
      <Stepper trial={trial} most={catalogue.data?.limits.levels ?? 0} />
      {view && byAmount && (
        <PowerPicture
          picture={view}
          axis={inDealt(trial, text.ask.axisUnits)}
        />
      )}
      {!byAmount ? (
        <Foreseen trial={trial} measure={measure} />
      ) : sight ? (
        <Sight
          trial={trial}
          sight={sight}
          percent={percent}
          needed={view?.units_needed}
          unsaid={
            margin.kind === "absolute" &&
            typeof trial.margin.percent !== "number"
              ? (measure?.unit ?? "")
              : null
          }
        />
      ) : (
        <p>{inDealt(trial, text.ask.tooFew)}</p>
      )}
      <Trouble error={picture.error} />
    </aside>
  );
}

/** One more or one fewer for each treatment. */
function Stepper({ trial, most }: { trial: TrialView; most: number }) {
  const plan = usePlan(trial.id);
  // Where whole levels are dealt, one more for each treatment takes as many levels as there are treatments.
  const levels =
    trial.rack.design === "fixtures" ? trial.sheet.treatments.length : 1;
  const step = (by: number) =>
    plan.mutate({
      part: "rack",
      rack: (now) => ({ levels: now.levels + by * levels }),
    });
  const locked = trial.sealed_at !== null;
  return (
    <>
      <div className="stepper">
        <span>{inDealt(trial, text.ask.unitsEach)}</span>
        <button
          type="button"
          aria-label={text.ask.fewer}
          disabled={locked || trial.rack.levels <= levels}
          onClick={() => step(-1)}
        >
          −
        </button>
        <b data-testid="units-each">{trial.seen_each}</b>
        <button
          type="button"
          aria-label={text.ask.more}
          disabled={locked || trial.rack.levels + levels > most}
          onClick={() => step(1)}
        >
          +
        </button>
      </div>
      <Trouble error={plan.error} />
    </>
  );
}

interface SightProps {
  trial: TrialView;
  sight: Schemas["Sight"];
  /** The margin, per cent. */
  percent: number;
  needed: number | null | undefined;
  /** Unit of a margin of which nobody knows how many per cent it is. */
  unsaid: string | null;
}

/** What the planned number could see, in words. */
function Sight({ trial, sight, percent, needed, unsaid }: SightProps) {
  const { spread } = trial;
  const cv = spread.cv_percent;
  const asked = shown(percent, percent % 1 ? 1 : 0);
  const alike = trial.ask.goal === "match";
  return (
    <div className="said">
      <p className="main">
        {inDealt(
          trial,
          (alike ? text.ask.showsAlike : text.ask.sees)(
            sight.units,
            shown(sight.smallest_percent, 0),
          ),
        )}
      </p>
      <p>
        {alike
          ? text.ask.chanceOf(`${asked} %`, shown(100 * sight.power, 0), true)
          : text.ask.chance(asked, shown(100 * sight.power, 0))}{" "}
        {sight.power < 0.8 &&
          typeof needed === "number" &&
          text.ask.needed(needed, asked)}
      </p>
      {trial.fixture && (
        <p>{text.ask.lamps(trial.fixture, trial.units_word)}</p>
      )}
      {trial.by_level && (
        <p className="soft">
          {text.ask.byLevel(trial.dealt_word, trial.units_word)}
        </p>
      )}
      <p>
        {inDealt(trial, text.ask.floor(shown(1 / sight.smallest_redeal_p, 0)))}
      </p>
      {unsaid !== null && <p className="soft">{text.ask.absolute(unsaid)}</p>}
      <p className="soft">
        {inWords(
          trial,
          spread.trials > 0
            ? text.ask.ownSpread(
                cv.toFixed(1),
                spread.trials,
                spread.low_percent ?? cv,
                spread.high_percent ?? cv,
              )
            : text.ask.spread(cv),
        )}
      </p>
    </div>
  );
}

/** What a count, a share or days could show with so many units: by formula or by seasons played, as on the command line. */
function Foreseen({
  trial,
  measure,
}: {
  trial: TrialView;
  measure: Schemas["Measure"];
}) {
  const expected = useQuery(expectedQuery(trial.id, trial.version));
  const seen = expected.data;
  if (expected.error) {
    return <Trouble error={expected.error} />;
  }
  if (!seen) {
    return (
      <p className="other-kind">
        {expected.isPending ? "" : text.ask.noForesight(measure.name)}
      </p>
    );
  }
  if (seen.kind === "lacks") {
    return (
      <p className="other-kind">{inWords(trial, text.ask.lacks(seen.what))}</p>
    );
  }
  const { margin } = trial.ask;
  const asked =
    margin.kind === "percent"
      ? `${margin.value} %`
      : `${margin.value} ${measure.kind === "days" ? "days" : "points"}`;
  return (
    <div className="said">
      {typeof seen.smallest === "number" && (
        <p className="main">
          {inDealt(
            trial,
            (measure.kind === "share" ? text.ask.seesPoints : text.ask.sees)(
              trial.seen_each,
              shown(seen.smallest, 1),
            ),
          )}
        </p>
      )}
      <p>
        {text.ask.chanceOf(
          asked,
          shown(100 * seen.power, 0),
          trial.ask.goal === "match",
        )}
      </p>
      {seen.power < 0.8 && typeof seen.units_needed === "number" && (
        <p>{text.ask.neededOf(seen.units_needed, asked)}</p>
      )}
      <p>
        {inDealt(trial, text.ask.floor(shown(1 / seen.smallest_possible_p, 0)))}
      </p>
      <p className="soft">
        {text.ask.scatter[measure.kind === "days" ? "days" : "tallies"]}
      </p>
      <p className="soft command">
        <code>{seen.command}</code>
      </p>
    </div>
  );
}
