import { useQuery } from "@tanstack/react-query";
import { Button } from "antd";
import { useParams } from "react-router";
import { Head } from "../frame/Head";
import { NotHere, Trouble } from "../frame/Trouble";
import { longDate } from "../marks/date";
import { calendarQuery } from "../queries/calendar";
import { text } from "../text/en";
import "./home.css";

/** A sheet to print for whoever waters meanwhile: what falls on which day, with a box to tick. By code, never by treatment. */
export default function Handover() {
  const { away = "" } = useParams();
  const calendar = useQuery(calendarQuery);
  const stretch = calendar.data?.away.find((a) => a.id === away);
  if (calendar.data && !stretch) {
    return <NotHere />;
  }
  return (
    <>
      <Head title={text.handover.title} />
      <main className="sheet alone handover">
        <Trouble error={calendar.error} />
        {stretch && (
          <>
            <Button className="noprint" type="primary" onClick={() => window.print()}>
              {text.tell.print}
            </Button>
            <h1>
              {text.handover.heading(longDate(stretch.first), longDate(stretch.last))}
            </h1>
            <p>{text.handover.lead}</p>
            <table>
              <thead>
                <tr>
                  {text.handover.columns.map((c) => (
                    <th key={c} scope="col">
                      {c}
                    </th>
                  ))}
                </tr>
              </thead>
              <tbody>
                {stretch.clashes.map((clash) => (
                  <tr key={`${clash.trial_id} ${clash.job} ${clash.day}`}>
                    <td>{longDate(clash.date, "weekday")}</td>
                    <td>{clash.trial}</td>
                    <td>
                      <b>{clash.label}</b>
                      {clash.job === "feed" && <small>{text.handover.feed}</small>}
                    </td>
                    <td className="tick" />
                    <td className="tick" />
                  </tr>
                ))}
              </tbody>
            </table>
            <p className="caution">{text.mix.caution}</p>
          </>
        )}
      </main>
    </>
  );
}
