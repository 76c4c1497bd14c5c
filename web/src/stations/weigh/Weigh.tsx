import { useQuery } from "@tanstack/react-query";
import { Select } from "antd";
import { useState, useSyncExternalStore } from "react";
import { Link } from "react-router";
import type { Schemas, TrialView } from "../../api/client";
import { outbox } from "../../api/outbox";
import { TakeBack } from "../../frame/TakeBack";
import { Trouble } from "../../frame/Trouble";
import { useTrial } from "../../frame/TrialFrame";
import { mass, massIn, massUnits, type MassUnit } from "../../marks/mass";
import { useChoice } from "../../marks/useChoice";
import { weighQuery } from "../../queries/trial";
import { inWords } from "../../marks/words";
import { text } from "../../text/en";
import { AfterCut } from "./AfterCut";
import { Aside } from "./Aside";
import { Now } from "./Now";
import { after, keyOf, partOf } from "./parts";
import { BY_HAND, useScale, type ScaleInUse } from "./useScale";
import "./weigh.css";

/** What is weighed next in its turn. */
function firstOf({ next, next_crop, next_sample }: Schemas["WeighView"]) {
  return next === null || next === undefined
    ? null
    : keyOf({ code: next, crop: next_crop, sample: next_sample });
}

/** What is on the scale out of turn, and what was typed ahead: it is of the one that came next, in the unit of then. */
function useTurn() {
  const [chosen, setChosen] = useState<string | null>(null);
  const [ahead, setAhead] = useState("");
  const next = (key: string | null, typed = "") => {
    setAhead(typed);
    setChosen(key);
  };
  return { chosen, ahead, next, choose: (key: string | null) => next(key) };
}

export default function Weigh() {
  const trial = useTrial();
  const [turn, setTurn] = useChoice("weigh-turn", TURNS, "shuffled");
  const [unit, setUnit] = useChoice("mass-unit", massUnits, "g");
  const scale = useScale();
  const harvest = useQuery(weighQuery(trial.id, turn));
  const { chosen, ahead, next, choose } = useTurn();
  const kept = useKept(trial.id);
  const view = harvest.data;
  if (trial.sown_on === null) {
    return (
      <p>
        {inWords(trial, text.weigh.notSown)}{" "}
        <Link to={`/trials/${trial.id}/tend`}>{text.stations.tend}</Link>
      </p>
    );
  }
  if (!view) {
    return <Trouble error={harvest.error} />;
  }
  const first = firstOf(view);
  // What is kept on this device is weighed, though the server does not know of it yet: the next stands on the scale.
  const row = view.rows.find((r) => keyOf(r) === (chosen ?? first));
  const onScale =
    chosen === null && row && kept.has(keyOf(row))
      ? after(view, row, kept)
      : row;
  const now = onScale ? keyOf(onScale) : null;
  const inTurn = chosen === null || chosen === first;
  const open = trial.reveal === null;
  return (
    <div className="weigh">
      {open && (
        <Setting
          turn={turn}
          setTurn={setTurn}
          unit={unit}
          setUnit={(other) => {
            next(chosen);
            setUnit(other);
          }}
          scale={scale}
        />
      )}
      {open && onScale && (
        <Now
          key={`${keyOf(onScale)} ${unit}`}
          trial={trial}
          view={view}
          row={onScale}
          inTurn={inTurn}
          unit={unit}
          scale={scale}
          ahead={ahead}
          onTaken={(typed) => next(null, typed)}
          onChoose={choose}
        />
      )}
      {open && first === null && chosen === null && view.weighed > 0 && (
        <p className="all-done">
          {view.waves && !view.ripe
            ? text.waves.done
            : inWords(trial, text.weigh.done)}{" "}
          <Link to={`/trials/${trial.id}/judge`}>{text.weigh.toJudge}</Link>
        </p>
      )}
      <Done
        trial={trial}
        view={view}
        unit={unit}
        kept={kept}
        current={open ? now : null}
        choose={choose}
      />
      {view.weighed > 0 && <AfterCut trial={trial} />}
      {open && <Aside trial={trial} view={view} unit={unit} />}
      <p className="links">
        <Link to={`/trials/${trial.id}/weigh/tasting`}>
          {text.tasting.link}
        </Link>
      </p>
      <p className="caution">{text.weigh.caution}</p>
    </div>
  );
}

const TURNS = ["shuffled", "walking"] as const;

interface SettingProps {
  turn: (typeof TURNS)[number];
  setTurn: (turn: (typeof TURNS)[number]) => void;
  unit: MassUnit;
  setUnit: (unit: MassUnit) => void;
  scale: ScaleInUse;
}

/** In which order, in which unit, on which scale. */
function Setting({ turn, setTurn, unit, setUnit, scale }: SettingProps) {
  const scales = [
    ...scale.all.map((s) => ({ value: String(s.no), label: s.name })),
    { value: BY_HAND, label: text.weigh.noScale },
  ];
  return (
    <div className="setting">
      <label title={text.weigh.orderWhy}>
        {text.weigh.order}
        <Select
          id="turn"
          value={turn}
          onChange={setTurn}
          options={TURNS.map((value) => ({
            value,
            label: text.weigh.orders[value],
          }))}
        />
      </label>
      <label>
        {text.weigh.unit}
        <Select
          id="mass-unit"
          value={unit}
          onChange={setUnit}
          options={massUnits.map((value) => ({ value, label: value }))}
        />
      </label>
      {scale.all.length > 0 ? (
        <label>
          {text.weigh.scale}
          <Select
            id="scale"
            value={scale.device ? String(scale.device.no) : BY_HAND}
            onChange={scale.choose}
            options={scales}
            popupMatchSelectWidth={false}
          />
        </label>
      ) : (
        <Link to="/farm">{text.weigh.addScale}</Link>
      )}
      {scale.bench && (
        <a href={scale.bench} target="_blank" rel="noreferrer">
          {text.weigh.bench}
        </a>
      )}
    </div>
  );
}

/** Weights of this trial that are kept here until the server takes them, g, by what was weighed. */
function useKept(trial: string): ReadonlyMap<string, number> {
  const { waiting, refused } = useSyncExternalStore(
    outbox.subscribe,
    outbox.kept,
  );
  const own = [...waiting, ...refused]
    .filter((row) => row.trial === trial)
    .flatMap((row) => ("records" in row ? row.records : []));
  return new Map(
    own.flatMap(({ kind, head, body }) =>
      kind === "weighing" || kind === "pick"
        ? [
            [
              keyOf({
                code: head?.unit ?? "",
                crop: head?.crop,
                sample: head?.sample,
              }),
              body.gross_g - body.tare_g,
            ] as const,
          ]
        : [],
    ),
  );
}

interface DoneProps {
  kept: ReadonlyMap<string, number>;
  trial: TrialView;
  view: Schemas["WeighView"];
  unit: MassUnit;
  current: string | null;
  choose: (code: string) => void;
}

function Done({ trial, view, unit, kept, current, choose }: DoneProps) {
  return (
    <section>
      <div className="sofar">
        <h2>
          {view.waves
            ? text.waves.today(view.weighed, view.rows.length)
            : text.weigh.soFar(view.weighed, view.rows.length)}
        </h2>
        {view.waves && <span>{text.waves.waveDays(view.wave_days)}</span>}
        {view.total_g > 0 && (
          <span>{text.weigh.total(mass(view.total_g, unit))}</span>
        )}
        <TakeBack trial={trial} />
      </div>
      <div className="ticks">
        {view.rows.map((r) => (
          <Tick
            key={keyOf(r)}
            row={r}
            unit={unit}
            kept={kept.get(keyOf(r))}
            now={keyOf(r) === current}
            disabled={trial.reveal !== null}
            choose={() => choose(keyOf(r))}
            weigh={inWords(trial, text.weigh.weighThis)}
          />
        ))}
      </div>
    </section>
  );
}

interface TickProps {
  row: Schemas["WeighRow"];
  unit: MassUnit;
  kept: number | undefined;
  now: boolean;
  disabled: boolean;
  choose: () => void;
  weigh: string;
}

/** One of what is weighed, with what it weighed. */
function Tick({ row, unit, kept, now, disabled, choose, weigh }: TickProps) {
  const part = partOf(row);
  const net =
    kept ??
    row.net_g ??
    (row.picked && row.picked.picks.length > 0 ? row.picked.g : null);
  const weighed = typeof net === "number" && (row.picked?.today ?? true);
  return (
    <button
      type="button"
      data-code={row.code}
      disabled={disabled}
      onClick={choose}
      className={[
        now ? "n" : weighed ? "t" : "",
        kept === undefined ? "" : "kept",
      ]
        .join(" ")
        .trim()}
    >
      <span className="sr">{weigh} </span>
      {row.code}
      {part && <em>{typeof row.sample === "number" ? row.sample : part}</em>}
      <small>
        {row.lost
          ? text.weigh.lost
          : typeof net === "number"
            ? massIn(net, unit)
            : now
              ? "…"
              : " "}
      </small>
    </button>
  );
}
