import { useQuery } from "@tanstack/react-query";
import { Button } from "antd";
import { Link, useParams } from "react-router";
import { Head } from "../../../frame/Head";
import { Trouble } from "../../../frame/Trouble";
import { Qr } from "../../../marks/Qr";
import { cardsQuery } from "../../../queries/tasting";
import { text } from "../../../text/en";
import "./tasting.css";

/** Cards for the seats of a tasting, to print or to pass round on a screen. */
export default function Cards() {
  const { id = "", no = "" } = useParams();
  const words = text.tasting;
  const found = useQuery(cardsQuery(id, Number(no)));
  return (
    <>
      <Head title={words.cardsTitle} />
      <main className="sheet alone seat-cards">
        <Trouble error={found.error} />
        <div className="tools noprint">
          <Button type="primary" onClick={() => window.print()}>
            {text.tell.print}
          </Button>
          <Link to={`/trials/${id}/weigh/tasting`}>{words.title}</Link>
        </div>
        <p className="soft noprint">
          {found.data?.length === 0
            ? words.cardsGone
            : words.cardsWhy(window.location.origin)}
        </p>
        <div className="stock">
          {found.data?.map((card) => (
            <div className="seat-card" key={card.seat}>
              <Qr rows={card.qr} label={card.link} />
              <div>
                <b>{words.cardSeat(card.seat)}</b>
                <span>{words.cardOrder}</span>
                <span className="codes">{card.codes.join("  ")}</span>
              </div>
            </div>
          ))}
        </div>
      </main>
    </>
  );
}
