import {
  DndContext,
  PointerSensor,
  useDraggable,
  useDroppable,
  useSensor,
  useSensors,
  type DragEndEvent,
} from "@dnd-kit/core";
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import type { Schemas, TrialView } from "../../api/client";
import { Trouble } from "../../frame/Trouble";
import { Badge, colourOf } from "../../marks/Mark";
import { placesQuery, usePlan } from "../../queries/trial";
import { text } from "../../text/en";
import { isEdge, Space } from "./RackPicture";

type Placed = Schemas["Placed"];

const at = (level: number, slot: number) => (p: Placed) =>
  p.level === level && p.slot === slot;

/** The places after one is given a treatment, emptied, or exchanged with another. */
export function moved(
  places: Placed[],
  level: number,
  slot: number,
  held: { treatment: number; from?: Placed } | null,
): Placed[] {
  const here = places.find(at(level, slot));
  const rest = places.filter((p) => p !== here && p !== held?.from);
  if (held === null) {
    return rest;
  }
  const back =
    here && held.from && here !== held.from
      ? [{ ...held.from, treatment: here.treatment }]
      : [];
  return [...rest, ...back, { level, slot, treatment: held.treatment }];
}

/** Which treatment stands where, set by drag, by tap, or by key: take a treatment up, then put it down. */
export function HandPlacing({ trial }: { trial: TrialView }) {
  const stored = useQuery(placesQuery(trial.id));
  const plan = usePlan(trial.id);
  const [held, setHeld] = useState<number>(0);
  // A short way first, so that a tap stays a tap.
  const sensors = useSensors(
    useSensor(PointerSensor, { activationConstraint: { distance: 8 } }),
  );
  const places = stored.data ?? [];
  const put = (
    level: number,
    slot: number,
    what: { treatment: number; from?: Placed } | null,
  ) =>
    plan.mutate({ part: "places", places: moved(places, level, slot, what) });
  const dropped = ({ active, over }: DragEndEvent) => {
    const [level, slot] = String(over?.id ?? "")
      .split("-")
      .map(Number);
    const data = active.data.current as
      { treatment: number; from?: Placed } | undefined;
    if (level && slot && data) {
      put(level, slot, data);
    }
  };
  return (
    <DndContext sensors={sensors} onDragEnd={dropped}>
      <div className="palette" role="group" aria-label={text.place.palette}>
        {trial.sheet.treatments.map((t, i) => (
          <Chip
            key={t.name}
            treatment={i}
            name={t.name}
            held={held === i}
            count={places.filter((p) => p.treatment === i).length}
            onTake={() => setHeld(i)}
          />
        ))}
        <p className="soft">{text.place.paletteHow}</p>
      </div>
      <Space
        trial={trial}
        place={(level, slot) => {
          const own = places.find(at(level, slot));
          const unit = trial.units.find(
            (u) => u.level === level && u.slot === slot,
          );
          return (
            <Spot
              level={level}
              slot={slot}
              own={own}
              code={unit?.code}
              edge={isEdge(trial, slot)}
              name={
                own
                  ? (trial.sheet.treatments[own.treatment]?.name ?? "")
                  : text.place.empty
              }
              where={`${trial.level_names[level - 1] ?? ""}, ${slot}`}
              onPut={() =>
                put(
                  level,
                  slot,
                  own?.treatment === held ? null : { treatment: held },
                )
              }
            />
          );
        }}
      />
      <Trouble error={stored.error ?? plan.error} />
    </DndContext>
  );
}

interface ChipProps {
  treatment: number;
  name: string;
  held: boolean;
  count: number;
  onTake: () => void;
}

function Chip({ treatment, name, held, count, onTake }: ChipProps) {
  const { setNodeRef, listeners, transform } = useDraggable({
    id: `chip-${treatment}`,
    data: { treatment },
  });
  return (
    <button
      type="button"
      ref={setNodeRef}
      {...listeners}
      className="chip"
      aria-pressed={held}
      onClick={onTake}
      style={{
        borderColor: colourOf(treatment),
        transform: transform
          ? `translate(${transform.x}px, ${transform.y}px)`
          : undefined,
      }}
    >
      <Badge treatment={treatment} />
      {name} <small>{count}</small>
    </button>
  );
}

interface SpotProps {
  level: number;
  slot: number;
  own: Placed | undefined;
  code: string | undefined;
  name: string;
  where: string;
  edge: boolean;
  onPut: () => void;
}

function Spot({ level, slot, own, code, name, where, edge, onPut }: SpotProps) {
  const drop = useDroppable({ id: `${level}-${slot}` });
  const drag = useDraggable({
    id: `tray-${level}-${slot}`,
    data: { treatment: own?.treatment ?? 0, from: own },
    disabled: own === undefined,
  });
  const { transform } = drag;
  return (
    <button
      type="button"
      ref={drop.setNodeRef}
      className={`spot${drop.isOver ? " over" : ""}`}
      aria-label={`${where}: ${name}`}
      onClick={onPut}
    >
      {own && (
        <span
          ref={drag.setNodeRef}
          {...drag.listeners}
          className="tray"
          style={{
            borderColor: colourOf(own.treatment),
            transform: transform
              ? `translate(${transform.x}px, ${transform.y}px)`
              : undefined,
          }}
        >
          <b>{code}</b>
          <span>
            <Badge treatment={own.treatment} />
            {name}
          </span>
        </span>
      )}
      {edge && <small>{text.place.edge}</small>}
    </button>
  );
}
