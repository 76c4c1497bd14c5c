import { Button, Checkbox, Slider } from "antd";
import { useRef, useState, type KeyboardEvent, type PointerEvent } from "react";
import type { Schemas, TrialView } from "../../api/client";
import { Trouble } from "../../frame/Trouble";
import { shown } from "../../marks/number";
import { inWords } from "../../marks/words";
import { pictureOf, useMarkPhoto } from "../../queries/trial";
import { text } from "../../text/en";

type Photo = Schemas["PhotoView"];
type Point = [number, number];

interface Draft {
  corners: Point[];
  card: Point | null;
  readiness: number;
}

const WHOLE: Point[] = [[0.02, 0.02], [0.98, 0.02], [0.98, 0.98], [0.02, 0.98]];
/** One step of an arrow key, as a share of the side. */
const STEP = 0.005;

const inside = (share: number) => Math.min(1, Math.max(0, share));
const point = (p: number[]): Point => [p[0] ?? 0, p[1] ?? 0];

/** What was marked before: in this photo, else in the last of the same tray from the same side; else the whole picture. */
function markedBefore(photo: Photo, all: Photo[]): Draft {
  const alike = all.filter((p) => p.code === photo.code && p.view === photo.view && p.marked);
  const marked = photo.marked ?? alike.at(-1)?.marked;
  return marked
    ? { corners: marked.corners.map(point), card: marked.card ? point(marked.card) : null, readiness: marked.readiness ?? 0.5 }
    : { corners: WHOLE, card: null, readiness: 0.5 };
}

interface PhotoBenchProps {
  trial: TrialView;
  photo: Photo;
  all: Photo[];
  open: (id: string | null) => void;
}

/** One photo: corners dragged onto the tray, what counts as leaf shaded over it, and the figures. */
export function PhotoBench({ trial, photo, all, open }: PhotoBenchProps) {
  const words = text.tend.photos;
  const mark = useMarkPhoto(trial.id);
  const [draft, setDraft] = useState<Draft>(() => markedBefore(photo, all));
  const own = all.filter((p) => p.code === photo.code && p.view === photo.view);
  const at = own.findIndex((p) => p.id === photo.id);
  const keep = () => mark.mutate({ photo: photo.id, marked: draft, version: photo.version });
  return (
    <div className="photo-bench">
      <header>
        <h3>{words.open(photo.code, photo.day)}</h3>
        <button type="button" className="plain" disabled={at <= 0} onClick={() => open(own[at - 1]?.id ?? null)}>
          {words.earlier}
        </button>
        <button type="button" className="plain" disabled={at >= own.length - 1} onClick={() => open(own[at + 1]?.id ?? null)}>
          {words.later}
        </button>
        <button type="button" className="plain close" onClick={() => open(null)}>
          {words.close}
        </button>
      </header>
      <Marking trial={trial} photo={photo} draft={draft} setDraft={setDraft} />
      <div className="photo-figures">
        {trial.reveal === null && (
          <>
            <p className="soft">{inWords(trial, words.corners)}</p>
            <label className="readiness">
              <span>{words.readiness}</span>
              <Slider
                min={0} max={1} step={0.05} value={draft.readiness} tooltip={{ open: false }} ariaLabelForHandle={words.readiness}
                marks={{ 0: words.less, 1: words.more }} onChange={(readiness) => setDraft({ ...draft, readiness })}
              />
            </label>
            <Checkbox checked={draft.card !== null} onChange={(e) => setDraft({ ...draft, card: e.target.checked ? [0.05, 0.05] : null })}>
              {words.card}
            </Checkbox>
            <Button type="primary" onClick={keep} loading={mark.isPending}>
              {words.keep}
            </Button>
            <Trouble error={mark.error} />
          </>
        )}
        {photo.figures && <FigureList figures={photo.figures} />}
      </div>
    </div>
  );
}

function FigureList({ figures }: { figures: Schemas["Figures"] }) {
  const words = text.tend.photos;
  const values = figures as unknown as Record<string, number | null>;
  return (
    <>
      <dl>
        {Object.entries(words.figures).map(([key, [name, unit, decimals]]) => {
          const value = values[key];
          return (
            <div key={key}>
              <dt>{name}</dt>
              <dd>{typeof value === "number" ? `${shown(value, decimals)} ${unit}` : "–"}</dd>
            </div>
          );
        })}
      </dl>
      <p className="soft">{words.goesOn}</p>
    </>
  );
}

/** Where the shading comes from: what the server takes for leaf between these corners. */
function maskOf(trial: string, photo: string, draft: Draft): string {
  const query = new URLSearchParams({ corners: draft.corners.flat().map((c) => c.toFixed(4)).join(","), readiness: String(draft.readiness) });
  if (draft.card) {
    query.set("card", draft.card.map((c) => c.toFixed(4)).join(","));
  }
  return `${pictureOf(trial, photo, "mask")}?${query}`;
}

interface MarkingProps {
  trial: TrialView;
  photo: Photo;
  draft: Draft;
  setDraft: (draft: Draft) => void;
}

/** The picture with its corners and what counts as leaf; the shading follows when a corner is let go. */
function Marking({ trial, photo, draft, setDraft }: MarkingProps) {
  const frame = useRef<HTMLDivElement>(null);
  const [settled, setSettled] = useState(draft);
  const words = text.tend.photos;
  const open = trial.reveal === null;
  // The slider has no end of a drag: what it says is shown as it moves.
  const shaded = { ...settled, readiness: draft.readiness, card: draft.card === null ? null : settled.card };
  const moved = (n: number, to: Point): Draft =>
    n < 4 ? { ...draft, corners: draft.corners.map((c, i) => (i === n ? to : c)) } : { ...draft, card: to };
  const points = [...draft.corners, ...(draft.card ? [draft.card] : [])];
  return (
    <div className="photo-frame" ref={frame}>
      <img src={pictureOf(trial.id, photo.id, "file")} alt={words.look(photo.code, photo.day)} />
      <img className="shading" src={maskOf(trial.id, photo.id, shaded)} alt="" />
      <svg viewBox="0 0 1 1" preserveAspectRatio="none" aria-hidden="true">
        <polygon points={draft.corners.map((c) => c.join(",")).join(" ")} vectorEffect="non-scaling-stroke" />
      </svg>
      {open &&
        points.map((p, n) => (
          <Handle
            key={n} at={p} frame={frame} name={n < 4 ? words.corner(n + 1) : words.cardPoint} round={n >= 4}
            move={(to) => setDraft(moved(n, to))} settle={() => setSettled(draft)}
          />
        ))}
    </div>
  );
}

interface HandleProps {
  at: Point;
  frame: React.RefObject<HTMLDivElement | null>;
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
      move([inside((event.clientX - box.left) / box.width), inside((event.clientY - box.top) / box.height)]);
    }
  };
  const step = (event: KeyboardEvent) => {
    const steps: Record<string, Point> = { ArrowLeft: [-STEP, 0], ArrowRight: [STEP, 0], ArrowUp: [0, -STEP], ArrowDown: [0, STEP] };
    const by = steps[event.key];
    if (by) {
      event.preventDefault();
      move([inside(at[0] + by[0]), inside(at[1] + by[1])]);
    }
  };
  return (
    <button
      type="button" className={round ? "handle round" : "handle"} aria-label={name} title={name}
      style={{ left: `${100 * at[0]}%`, top: `${100 * at[1]}%` }}
      onPointerDown={(e) => e.currentTarget.setPointerCapture(e.pointerId)} onPointerMove={drag} onPointerUp={settle}
      onKeyDown={step} onKeyUp={settle}
    />
  );
}
