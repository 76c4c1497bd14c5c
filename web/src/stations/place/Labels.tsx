import { useQuery } from "@tanstack/react-query";
import { Button, Select } from "antd";
import { useState } from "react";
import { Link, useParams } from "react-router";
import { Head } from "../../frame/Head";
import { Trouble } from "../../frame/Trouble";
import { longDate } from "../../marks/date";
import { labelsQuery } from "../../queries/calendar";
import { Qr } from "../../marks/Qr";
import { text } from "../../text/en";
import "./labels.css";

type Paper = keyof typeof text.labels.papers;

/** Labels to print and stick: code, place, dates, and a QR code to the unit's page. */
export default function Labels() {
  const { id = "" } = useParams();
  const labels = useQuery(labelsQuery(id));
  const [paper, setPaper] = useState<Paper>("a4");
  const view = labels.data;
  return (
    <>
      <Head title={text.labels.title} beside={view?.trial} />
      <main className="sheet alone labels">
        <Trouble error={labels.error} />
        <div className="tools noprint">
          <label className="field">
            <span>{text.labels.paper}</span>
            <Select
              id="paper"
              value={paper}
              onChange={setPaper}
              options={Object.entries(text.labels.papers).map(
                ([value, label]) => ({ value: value as Paper, label }),
              )}
            />
          </label>
          <Button type="primary" onClick={() => window.print()}>
            {text.tell.print}
          </Button>
          <Link to={`/trials/${id}/place`}>{text.labels.back}</Link>
        </div>
        {view?.labels.length === 0 && <p>{text.labels.none}</p>}
        <p className="soft noprint">
          {text.labels.links(window.location.origin)}
        </p>
        <style>{`@page { size: ${PAGES[paper]}; margin: ${paper === "roll" ? "1mm" : "10mm"}; }`}</style>
        <div className={`stock ${paper}`}>
          {view?.labels.map((label) => (
            <div className="label" key={label.code}>
              <Qr rows={label.qr} label={label.link} />
              <div>
                <b>{label.code}</b>
                <span className="of">{view.trial}</span>
                <span>{label.place}</span>
                <span>
                  {text.labels.sown}{" "}
                  {view.sown ? longDate(view.sown) : "__________"}
                </span>
                <span>
                  {text.labels.cut}{" "}
                  {view.harvest ? longDate(view.harvest) : "__________"}
                </span>
              </div>
            </div>
          ))}
        </div>
      </main>
    </>
  );
}

const PAGES: Record<Paper, string> = {
  a4: "A4",
  letter: "letter",
  roll: "62mm 29mm",
};
