import { useQuery } from "@tanstack/react-query";
import { Link } from "react-router";
import { Trouble } from "../../../frame/Trouble";
import { useTrial } from "../../../frame/TrialFrame";
import { tastingsQuery, useDeed } from "../../../queries/tasting";
import { text } from "../../../text/en";
import { Begin } from "./Begin";
import { Covered } from "./Covered";
import { kindOf } from "./kind";
import { Served } from "./Served";
import { Told } from "./Told";
import "./tasting.css";

/** Blind tasting: one is begun, one runs, and what earlier ones told. */
export default function Tasting() {
  const trial = useTrial();
  const words = text.tasting;
  const found = useQuery(tastingsQuery(trial.id));
  // Held here: what it is used in goes as soon as the new list has come.
  const deed = useDeed(trial.id);
  const view = found.data;
  const running = view?.tastings.filter((t) => !t.closed) ?? [];
  const closed = view?.tastings.filter((t) => t.closed).reverse() ?? [];
  return (
    <div className="tasting">
      <p className="links">
        <Link to={`/trials/${trial.id}/weigh`}>{words.back}</Link>
      </p>
      <h2>{words.title}</h2>
      <p className="soft">{words.why}</p>
      <Trouble error={found.error ?? deed.error} />
      {view && (
        <>
          <section className="before">
            <h3>{words.cautions}</h3>
            <ul>
              {view.cautions.map((c) => (
                <li key={c}>{c}</li>
              ))}
            </ul>
          </section>
          {running.map((own) =>
            own.way === "served" ? (
              <Served
                key={own.no}
                trial={trial}
                own={own}
                mine={view.mine}
                deed={deed}
              />
            ) : (
              <Covered
                key={own.no}
                own={own}
                liking={view.liking}
                mine={view.mine}
                deed={deed}
              />
            ),
          )}
          {closed.map((own) => (
            <section key={own.no} className="told" data-testid="told">
              <h3>
                {words.kinds[kindOf(own)]}{" "}
                <small>
                  {words.answered(
                    own.seats.filter((s) => s.answered).length,
                    own.seats.length,
                  )}
                </small>
              </h3>
              <Told
                own={own}
                offers={view.offers}
                attributes={view.attributes}
              />
            </section>
          ))}
          {running.length === 0 &&
            (view.waits ? (
              <p>{view.waits}</p>
            ) : view.mine ? (
              <Begin view={view} deed={deed} />
            ) : (
              <p className="soft">{words.ownersOnly}</p>
            ))}
        </>
      )}
    </div>
  );
}
