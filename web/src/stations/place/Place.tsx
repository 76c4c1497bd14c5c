import { Button } from "antd";
import { useState } from "react";
import { Link } from "react-router";
import type { TrialView } from "../../api/client";
import { Trouble } from "../../frame/Trouble";
import { useTrial } from "../../frame/TrialFrame";
import { Badge } from "../../marks/Mark";
import { usePlan } from "../../queries/trial";
import { grouped, inPlace } from "../../marks/words";
import { text } from "../../text/en";
import { HandPlacing } from "./HandPlacing";
import { LightMap } from "./LightMap";
import { RackPicture } from "./RackPicture";
import { SiteCards } from "./SiteCards";
import { Sizer } from "./Sizer";
import { Starts } from "./Starts";
import { SpaceFields } from "./SpaceFields";
import "./place.css";

export default function Place() {
  const trial = useTrial();
  const plan = usePlan(trial.id);
  const [view, setView] = useState<"units" | "light" | "start">("units");
  const locked = trial.sealed_at !== null;
  const byHand = trial.rack.design === "by_hand";
  const dealt = trial.commitment !== null;
  return (
    <div className="place">
      <div>
        <SpaceFields trial={trial} locked={locked} />
        <p className="views" role="group" aria-label={text.place.views}>
          {(["units", "light", "start"] as const).map((key) => (
            <button
              key={key}
              type="button"
              className="plain"
              aria-pressed={view === key}
              onClick={() => setView(key)}
            >
              {key === "units"
                ? text.place.units(trial.units_word)
                : text.place.viewNames[key]}
            </button>
          ))}
        </p>
        {view === "light" ? (
          <LightMap trial={trial} />
        ) : view === "start" ? (
          <Starts trial={trial} />
        ) : byHand && !locked ? (
          <HandPlacing trial={trial} />
        ) : (
          <RackPicture trial={trial} />
        )}
        {!locked && view === "units" && <Sizer trial={trial} />}
        {trial.used_slots < trial.rack.slots && (
          <p className="soft">
            {text.place.stays(
              trial.rack.slots - trial.used_slots,
              trial.units_word,
            )}
          </p>
        )}
        {view === "units" &&
          trial.rack.kind !== "sites" &&
          trial.rounds === 1 && <p className="soft">{text.place.edges}</p>}
        {trial.rack.kind === "sites" && <SiteCards trial={trial} />}
      </div>
      <aside className="dealing">
        <h2>{text.place.dealt}</h2>
        {dealt ? (
          <Dealt trial={trial} />
        ) : (
          <p>
            {inPlace(trial, text.place.notDealt[trial.rack.design ?? "blocks"])}
          </p>
        )}
        {!locked && !byHand && (
          <Button
            type={dealt ? "default" : "primary"}
            loading={plan.isPending}
            className="deal"
            onClick={() => plan.mutate({ part: "deal" })}
          >
            {dealt ? text.place.again : text.place.deal}
          </Button>
        )}
        {dealt && (
          <p className="to-labels">
            <Link to={`/trials/${trial.id}/labels`}>{text.place.labels}</Link>
          </p>
        )}
        <Trouble error={plan.error} />
      </aside>
    </div>
  );
}

function Dealt({ trial }: { trial: TrialView }) {
  const { reveal } = trial;
  const design = trial.rack.design ?? "blocks";
  const ways =
    trial.ways < 1e9
      ? Math.round(trial.ways).toLocaleString()
      : trial.ways.toExponential(1);
  return (
    <>
      <p>{inPlace(trial, text.place.how[design])}</p>
      {design === "split_plot" && trial.fixture && (
        <p>{text.place.fixture(trial.fixture)}</p>
      )}
      {design !== "by_hand" && <p>{text.place.ways(ways)}</p>}
      {trial.sealed_at && <p>{text.place.sown}</p>}
      <h3>{text.place.seal}</h3>
      <p className="print" title={text.place.sealWhy}>
        {grouped(trial.commitment ?? "")}
      </p>
      {reveal ? (
        <>
          <p>
            <b>{reveal.verified ? text.place.verified : text.place.broken}</b>
          </p>
          <p className="print">
            {text.place.seed} {reveal.seed}
            <br />
            {text.place.nonce} {grouped(reveal.nonce)}
          </p>
          <h3>{text.place.key}</h3>
          {trial.sheet.treatments.map((t, i) => (
            <p key={t.name}>
              <Badge treatment={i} />
              {t.name}:{" "}
              {trial.units
                .filter((u) => u.treatment === i)
                .map((u) => u.code)
                .join(" ")}
            </p>
          ))}
        </>
      ) : (
        <p className="soft">{text.place.sealWhy}</p>
      )}
    </>
  );
}
