import type { Schemas, TrialView } from "../../api/client";
import { Trouble } from "../../frame/Trouble";
import { usePlan } from "../../queries/trial";
import { inPlace } from "../../marks/words";
import { text } from "../../text/en";

type Design = Schemas["RackDesign"];

/** The design that goes with how far a fixture reaches: whole levels are dealt where it serves them. */
export function designFor(
  trial: Pick<TrialView, "rack" | "differences">,
  serves: Schemas["Serves"],
): Design {
  const design = trial.rack.design ?? "blocks";
  const whole: Design =
    trial.differences.kind === "crossed" ? "split_plot" : "fixtures";
  if (serves === "level") {
    return design === "by_hand" ? design : whole;
  }
  return design === "fixtures" || design === "split_plot" ? "blocks" : design;
}

/** Whether what differs comes from one lamp, pump or reservoir for a whole level, or from one for each place. */
export function Reach({
  trial,
  locked,
}: {
  trial: TrialView;
  locked: boolean;
}) {
  const plan = usePlan(trial.id);
  const { through, rack } = trial;
  const said = through && rack.serves?.[through.fixture];
  if (
    !through ||
    rack.slots < 2 ||
    trial.rounds > 1 ||
    (locked && said === undefined)
  ) {
    return null;
  }
  const put = (serves: Schemas["Serves"]) =>
    plan.mutate({
      part: "rack",
      rack: (now) => ({
        numbers: [],
        design: designFor(trial, serves),
        serves: { ...now.serves, [through.fixture]: serves },
      }),
    });
  const choice = (serves: Schemas["Serves"], label: string) => (
    <button
      type="button"
      className="plain"
      aria-pressed={
        said === serves ||
        (said === undefined && !through.ask && serves === "place")
      }
      disabled={locked}
      onClick={() => put(serves)}
    >
      {inPlace(trial, label)}
    </button>
  );
  return (
    <div
      className={through.ask && !locked ? "reach asked" : "reach"}
      role="group"
      aria-label={text.place.reach}
    >
      <span>
        {inPlace(
          trial,
          text.place.reachOf(through.factor, through.word, through.ask),
        )}
      </span>
      {choice("place", text.place.reachPlace(through.word))}
      {choice("level", text.place.reachLevel(through.word))}
      {through.ask && !locked && (
        <p className="soft">
          {inPlace(trial, text.place.reachWhy(through.word))}
        </p>
      )}
      <Trouble error={plan.error} />
    </div>
  );
}
