import { useQuery } from "@tanstack/react-query";
import { Button } from "antd";
import { useNavigate } from "react-router";
import type { Schemas, TrialView } from "../../api/client";
import { Trouble } from "../../frame/Trouble";
import { nextQuery, usePlanNext } from "../../queries/next";
import { useIsOwner } from "../../queries/people";
import { text } from "../../text/en";

/** Why some treatments thrived and others lagged: conjectures, each with the trial that would part it from the rest. */
export function WhyTold({ trial }: { trial: TrialView }) {
  const words = text.why;
  const view = useQuery(nextQuery(trial.id)).data;
  const plan = usePlanNext(trial.id);
  const owner = useIsOwner();
  const go = useNavigate();
  if (!view?.why) {
    return null;
  }
  const { thrived, lagged, conjectures } = view.why;
  const start = async (key: string) => {
    const made = await plan.mutateAsync(key).catch(() => null);
    if (made) {
      await go(`/trials/${made.id}/match`);
    }
  };
  return (
    <section className="what-now why">
      <h2>{words.title}</h2>
      <p className="soft">
        {words.thrived(thrived.join(", "), lagged.join(", "))}
      </p>
      {conjectures.length === 0 && <p>{words.none}</p>}
      <ul className="suggestions">
        {conjectures.map((own) => (
          <li key={own.key} data-key={own.key}>
            <div>
              <b className="capital">{own.what}</b>
              <p>{own.seen}.</p>
              <Reasons name={words.for} all={own.speaks_for} />
              <Reasons name={words.against} all={own.against} />
              {own.parts !== "" && <p>{own.parts}</p>}
            </div>
            {owner && own.parts !== "" && (
              <Button
                loading={plan.isPending && plan.variables === own.key}
                onClick={() => void start(own.key)}
              >
                {text.next.plan}
              </Button>
            )}
          </li>
        ))}
      </ul>
      <Trouble error={plan.error} />
    </section>
  );
}

function Reasons({
  name,
  all,
}: {
  name: string;
  all: Schemas["Conjecture"]["against"];
}) {
  return all.length === 0 ? null : (
    <p className="soft">
      {name}: {all.join(" ")}
    </p>
  );
}
