import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { Link } from "react-router";
import type { Schemas, TrialView } from "../../../api/client";
import { Trouble } from "../../../frame/Trouble";
import { useTrial } from "../../../frame/TrialFrame";
import { inWords } from "../../../marks/words";
import { tracksQuery } from "../../../queries/tracks";
import { text } from "../../../text/en";
import { Logged } from "./Logged";
import { Loggers } from "./Loggers";
import { Readings } from "./Readings";
import "./tracks.css";

type View = Schemas["TracksView"];

/** Each reading over the days, tray by tray, and what loggers recorded beside them. */
export default function Tracks() {
  const trial = useTrial();
  const tracks = useQuery(tracksQuery(trial.id));
  return (
    <div className="tracks">
      <p className="links">
        <Link to={`/trials/${trial.id}/tend`}>{text.tracks.back}</Link>
      </p>
      <h2>{text.tracks.title}</h2>
      <Trouble error={tracks.error} />
      {tracks.data && <Chosen trial={trial} view={tracks.data} />}
      <Loggers trial={trial} />
    </div>
  );
}

function Chosen({ trial, view }: { trial: TrialView; view: View }) {
  const [wanted, setWanted] = useState<string | null>(null);
  const readings = view.readings.map((r) => ({ ...r, id: r.key }));
  const plain = { outstanding: 0 };
  const logged = view.logged.map((l) => ({
    ...l,
    ...plain,
    id: `logged ${l.quantity}`,
    computed: false as const,
  }));
  const computed = view.computed.map((c) => ({
    ...c,
    ...plain,
    id: `computed ${c.quantity}`,
    computed: true as const,
  }));
  // What has something to look at comes first into view.
  const first =
    readings.find((r) => r.outstanding > 0) ?? readings[0] ?? logged[0];
  const chosen =
    [...readings, ...logged, ...computed].find((r) => r.id === wanted)?.id ??
    first?.id;
  if (!first) {
    return <p className="soft">{text.tracks.none}</p>;
  }
  const reading = readings.find((r) => r.id === chosen);
  const series = [...logged, ...computed].find((l) => l.id === chosen);
  return (
    <>
      <Choice
        name={inWords(trial, text.tracks.readings)}
        all={readings}
        chosen={chosen}
        choose={setWanted}
      />
      <Choice
        name={text.tracks.logged}
        all={logged}
        chosen={chosen}
        choose={setWanted}
      />
      <Choice
        name={text.tracks.computed}
        all={computed}
        chosen={chosen}
        choose={setWanted}
      />
      {reading && (
        <Readings
          key={reading.key}
          trial={trial}
          of={reading}
          ticks={view.ticks}
        />
      )}
      {series && (
        <Logged key={series.id} trial={trial} of={series} ticks={view.ticks} />
      )}
    </>
  );
}

interface ChoiceProps {
  name: string;
  all: { id: string; name: string; outstanding: number }[];
  chosen: string | undefined;
  choose: (id: string) => void;
}

function Choice({ name, all, chosen, choose }: ChoiceProps) {
  if (all.length === 0) {
    return null;
  }
  return (
    <div className="track-choice" role="group" aria-label={name}>
      <span>{name}</span>
      {all.map((one) => (
        <button
          key={one.id}
          type="button"
          aria-pressed={one.id === chosen}
          onClick={() => choose(one.id)}
        >
          {one.name}
          {one.outstanding > 0 && (
            <em>{text.tracks.outstanding(one.outstanding)}</em>
          )}
        </button>
      ))}
    </div>
  );
}
