import {
  useRef,
  useState,
  type KeyboardEvent,
  type PointerEvent,
  type RefObject,
} from "react";
import type { Schemas, TrialView } from "../../api/client";
import { pictureOf } from "../../queries/trial";
import { text } from "../../text/en";

export type Point = [number, number];

/** What is marked in a photo, as it is being marked. */
export interface Marks {
  corners: Point[];
  card: Point | null;
  readiness: number;
  /** The two ends of a ruler. */
  ruler: Point[] | null;
  /** The two ends of a line that is measured. */
  line: Point[] | null;
}

/** One step of an arrow key, as a share of the side. */
const STEP = 0.005;

const inside = (share: number) => Math.min(1, Math.max(0, share));

/** Where the shading comes from: what the server takes for leaf between these corners. */
function maskOf(trial: string, photo: string, draft: Marks): string {
  const query = new URLSearchParams({
    corners: draft.corners
      .flat()
      .map((c) => c.toFixed(4))
      .join(","),
    readiness: String(draft.readiness),
  });
  if (draft.card) {
    query.set("card", draft.card.map((c) => c.toFixed(4)).join(","));
  }
  return `${pictureOf(trial, photo, "mask")}?${query}`;
}

interface MarkingProps {
  trial: TrialView;
  photo: Schemas["PhotoView"];
  /** A picture that is laid over it, to hold the two against each other. */
  ghost: string | null;
  draft: Marks;
  setDraft: (draft: Marks) => void;
}

/** The picture with its corners and what counts as leaf; the shading follows when a corner is let go. */
export function PhotoMarking({
  trial,
  photo,
  ghost,
  draft,
  setDraft,
}: MarkingProps) {
  const frame = useRef<HTMLDivElement>(null);
  const [settled, setSettled] = useState(draft);
  const words = text.tend.photos;
  const open = trial.reveal === null;
  // The slider has no end of a drag: what it says is shown as it moves.
  const shaded = {
    ...settled,
    readiness: draft.readiness,
    card: draft.card === null ? null : settled.card,
  };
  const points = pointsOf(draft, setDraft);
  const polygon = (ends: Point[]) => ends.map((c) => c.join(",")).join(" ");
  return (
    <div className="photo-frame" ref={frame}>
      <img
        src={pictureOf(trial.id, photo.id, "file")}
        alt={words.look(photo.code, photo.day)}
      />
      {ghost && <img className="ghost" src={ghost} alt="" />}
      <img
        className="shading"
        src={maskOf(trial.id, photo.id, shaded)}
        alt=""
      />
      <svg viewBox="0 0 1 1" preserveAspectRatio="none" aria-hidden="true">
        <polygon
          points={polygon(draft.corners)}
          vectorEffect="non-scaling-stroke"
        />
        {draft.ruler && (
          <polyline
            className="ruler"
            points={polygon(draft.ruler)}
            vectorEffect="non-scaling-stroke"
          />
        )}
        {draft.line && (
          <polyline
            points={polygon(draft.line)}
            vectorEffect="non-scaling-stroke"
          />
        )}
      </svg>
      {open &&
        points.map((p) => (
          <Handle
            key={p.name}
            at={p.at}
            frame={frame}
            name={p.name}
            round={p.round}
            move={p.move}
            settle={() => setSettled(draft)}
          />
        ))}
    </div>
  );
}

interface Movable {
  name: string;
  at: Point;
  round: boolean;
  move: (to: Point) => void;
}

/** Every point that can be dragged, with its name and what moving it does. */
function pointsOf(draft: Marks, setDraft: (draft: Marks) => void): Movable[] {
  const words = text.tend.photos;
  const replaced = (points: Point[], n: number, to: Point) =>
    points.map((p, i) => (i === n ? to : p));
  const { card, ruler, line } = draft;
  return [
    ...draft.corners.map((at, n) => ({
      name: words.corner(n + 1),
      at,
      round: false,
      move: (to: Point) =>
        setDraft({ ...draft, corners: replaced(draft.corners, n, to) }),
    })),
    ...(card
      ? [
          {
            name: words.cardPoint,
            at: card,
            round: true,
            move: (to: Point) => setDraft({ ...draft, card: to }),
          },
        ]
      : []),
    ...(ruler ?? []).map((at, n) => ({
      name: words.rulerEnd(n + 1),
      at,
      round: true,
      move: (to: Point) =>
        setDraft({ ...draft, ruler: replaced(ruler ?? [], n, to) }),
    })),
    ...(line ?? []).map((at, n) => ({
      name: words.lineEnd(n + 1),
      at,
      round: true,
      move: (to: Point) =>
        setDraft({ ...draft, line: replaced(line ?? [], n, to) }),
    })),
  ];
}

interface HandleProps {
  at: Point;
  frame: RefObject<HTMLDivElement | null>;
  name: string;
  round: boolean;
  move: (to: Point) => void;
  settle: () => void;
}

/** A point that is dragged, or stepped with the arrow keys. */
function Handle({ at, frame, name, round, move, settle }: HandleProps) {
  const drag = (event: PointerEvent<HTMLButtonElement>) => {
    const box = frame.current?.getBoundingClientRect();
    if (box && event.buttons > 0) {
      move([
        inside((event.clientX - box.left) / box.width),
        inside((event.clientY - box.top) / box.height),
      ]);
    }
  };
  const step = (event: KeyboardEvent) => {
    const steps: Record<string, Point> = {
      ArrowLeft: [-STEP, 0],
      ArrowRight: [STEP, 0],
      ArrowUp: [0, -STEP],
      ArrowDown: [0, STEP],
    };
    const by = steps[event.key];
    if (by) {
      event.preventDefault();
      move([inside(at[0] + by[0]), inside(at[1] + by[1])]);
    }
  };
  return (
    <button
      type="button"
      className={round ? "handle round" : "handle"}
      aria-label={name}
      title={name}
      style={{ left: `${100 * at[0]}%`, top: `${100 * at[1]}%` }}
      onPointerDown={(e) => e.currentTarget.setPointerCapture(e.pointerId)}
      onPointerMove={drag}
      onPointerUp={settle}
      onKeyDown={step}
      onKeyUp={settle}
    />
  );
}
