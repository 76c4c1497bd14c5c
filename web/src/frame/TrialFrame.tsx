import { useQuery } from "@tanstack/react-query";
import { useEffect, useRef } from "react";
import {
  NavLink,
  Outlet,
  useLocation,
  useOutletContext,
  useParams,
} from "react-router";
import type { TrialView } from "../api/client";
import { useIsOwner } from "../queries/people";
import { trialQuery } from "../queries/trial";
import { isStation, text } from "../text/en";
import { Head } from "./Head";
import { Ledger } from "./Ledger";
import { TakeBack } from "./TakeBack";
import { Trouble } from "./Trouble";
import "./frame.css";

function beside(trial: TrialView): string {
  const { day, reveal } = trial;
  if (reveal) {
    return text.frame.opened(
      trial.ended_on ?? reveal.day,
      trial.ask.end_day,
      trial.ask.end_stage ?? "",
      new Date(reveal.at).toLocaleDateString([], { dateStyle: "long" }),
    );
  }
  if (day !== null && day !== undefined) {
    return text.frame.dayOf(day, trial.ask.end_day);
  }
  return trial.commitment ? text.frame.dealtNotSown : text.frame.planned;
}

/** A trial: its name, the line of stations, the station's own surface and the ledger. */
export function TrialFrame() {
  const { id = "" } = useParams();
  const trial = useQuery(trialQuery(id));
  const owner = useIsOwner();
  const { pathname } = useLocation();
  // Plans are the owner's; records are anybody's who signed in to take them.
  const planning = /\/(ask|match|place|mix)$/.test(pathname);
  if (!trial.data) {
    return (
      <>
        <Head title={trial.error ? text.frame.noTrial : ""} />
        <main className="sheet alone">
          <Trouble error={trial.error} />
        </main>
      </>
    );
  }
  return (
    <>
      <Head title={trial.data.name} beside={beside(trial.data)} />
      <Line trial={trial.data} />
      <main className="sheet with-ledger">
        <section className="station">
          {owner && /\/(ask|match|place|mix)$/.test(pathname) && (
            <div className="step-back">
              <TakeBack trial={trial.data} plan />
            </div>
          )}
          {!owner && trial.data.reveal === null && (
            <p className="blind-note">{text.people.blind}</p>
          )}
          <fieldset className="station-field" disabled={!owner && planning}>
            <Outlet context={trial.data} />
          </fieldset>
        </section>
        <Ledger trial={trial.data} />
      </main>
    </>
  );
}

/** The trial that the frame around a station holds. */
export function useTrial(): TrialView {
  return useOutletContext<TrialView>();
}

function Line({ trial }: { trial: TrialView }) {
  const band = useRef<HTMLElement>(null);
  const { "*": rest } = useParams();
  useEffect(() => {
    // On a phone the rail scrolls; the plate one stands at must be in view.
    const plate = band.current?.querySelector<HTMLElement>(
      '[aria-current="page"]',
    );
    if (plate && band.current) {
      band.current.scrollLeft = plate.offsetLeft - 24;
    }
  });
  return (
    <nav
      className="line"
      aria-label={text.frame.line}
      ref={band}
      data-rest={rest}
    >
      {trial.stations.map((station) => (
        <NavLink
          key={station.key}
          to={`/trials/${trial.id}/${station.key}`}
          className="plate"
        >
          <b>
            {isStation(station.key) ? text.stations[station.key] : station.key}
            {station.mark !== "quiet" && (
              <i
                className={station.mark}
                aria-label={text.frame.marks[station.mark]}
              />
            )}
          </b>
          <span>{station.status}</span>
        </NavLink>
      ))}
    </nav>
  );
}
