import { useQuery } from "@tanstack/react-query";
import { tastingsQuery } from "../../queries/tasting";
import { text } from "../../text/en";
import { kindOf } from "../weigh/tasting/kind";
import { Told } from "../weigh/tasting/Told";
import "../weigh/tasting/tasting.css";

/** What the tastings of a trial told, once they were closed. */
export function Tasted({ trial }: { trial: string }) {
  const view = useQuery(tastingsQuery(trial)).data;
  const closed = view?.tastings.filter((t) => t.closed) ?? [];
  if (!view || closed.length === 0) {
    return null;
  }
  return (
    <section className="tasting">
      <h2>{text.tasting.title}</h2>
      {closed.map((own) => (
        <section key={own.no} className="told">
          <h3>
            {text.tasting.kinds[kindOf(own)]}{" "}
            <small>
              {text.tasting.answered(
                own.seats.filter((s) => s.answered).length,
                own.seats.length,
              )}
            </small>
          </h3>
          <Told own={own} offers={view.offers} attributes={view.attributes} />
        </section>
      ))}
    </section>
  );
}
