import { Button } from "antd";
import { useState } from "react";
import { Link } from "react-router";
import type { Schemas, TrialView } from "../../../api/client";
import { Wide } from "../../../marks/Wide";
import type { useDeed } from "../../../queries/tasting";
import { text } from "../../../text/en";
import { Closing } from "./Closing";

interface Props {
  trial: TrialView;
  own: Schemas["TastingView"];
  mine: boolean;
  deed: ReturnType<typeof useDeed>;
}

/** A tasting with phones that runs: who has answered, the cards, what goes into which cup. */
export function Served({ trial, own, mine, deed }: Props) {
  const words = text.tasting;
  const [shown, setShown] = useState(false);
  const answered = own.seats.filter((s) => s.answered).length;
  return (
    <section className="runs" data-testid="runs">
      <h3>{words.kinds[own.asked]}</h3>
      <p className="count" role="status">
        {words.answered(answered, own.seats.length)}
      </p>
      <p className="seats" aria-hidden="true">
        {own.seats.map((s) => (
          <i key={s.seat} className={s.answered ? "has" : ""}>
            {s.seat}
          </i>
        ))}
      </p>
      <p className="soft">
        {own.open
          ? words.until(
              new Date(own.until).toLocaleString("en-GB", {
                weekday: "long",
                hour: "2-digit",
                minute: "2-digit",
              }),
            )
          : words.over}
      </p>
      {mine && (
        <p>
          <Link to={`/trials/${trial.id}/tastings/${own.no}/cards`}>
            {words.cards}
          </Link>
        </p>
      )}
      {mine && !shown && (
        <Button onClick={() => setShown(true)}>{words.sheetShow}</Button>
      )}
      {mine && shown && <Sheet own={own} />}
      {mine && <Closing own={own} deed={deed} />}
    </section>
  );
}

/** For who fills the cups. */
function Sheet({ own }: { own: Props["own"] }) {
  const words = text.tasting;
  const places = own.seats[0]?.cups.map((_, place) => place) ?? [];
  return (
    <>
      <h4>{words.sheet}</h4>
      <p className="soft">{words.sheetWhy}</p>
      <Wide className="tasted" name={words.sheet}>
        <table>
          <thead>
            <tr>
              <th scope="col">{words.seat}</th>
              {places.map((place) => (
                <th key={place} scope="col">
                  {words.cup(place)}
                </th>
              ))}
            </tr>
          </thead>
          <tbody>
            {own.seats.map((seat) => (
              <tr key={seat.seat}>
                <th scope="row">{seat.seat}</th>
                {seat.cups.map((cup) => (
                  <td key={cup.code}>
                    <b>{cup.code}</b> {cup.from.join(" ")}
                  </td>
                ))}
              </tr>
            ))}
          </tbody>
        </table>
      </Wide>
    </>
  );
}
