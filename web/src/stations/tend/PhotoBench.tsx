import { Button, Checkbox, Input, Slider } from "antd";
import { useState } from "react";
import type { Schemas, TrialView } from "../../api/client";
import { Trouble } from "../../frame/Trouble";
import { shown, typed } from "../../marks/number";
import { inWords } from "../../marks/words";
import { pictureOf, useMarkPhoto } from "../../queries/trial";
import { text } from "../../text/en";
import { PhotoMarking, type Marks, type Point } from "./PhotoMarking";

type Photo = Schemas["PhotoView"];
interface Draft extends Marks {
  /** How far the ends of the ruler are apart, as it is typed, mm. */
  mm: string;
}

const WHOLE: Point[] = [
  [0.02, 0.02],
  [0.98, 0.02],
  [0.98, 0.98],
  [0.02, 0.98],
];
/** Where a ruler and a line stand before they are dragged. */
const RULER: Point[] = [
  [0.2, 0.94],
  [0.8, 0.94],
];
const LINE: Point[] = [
  [0.5, 0.8],
  [0.5, 0.2],
];

const point = (p: number[]): Point => [p[0] ?? 0, p[1] ?? 0];

/** What was marked before: in this photo, else in the last of the same tray from the same side; else the whole picture. */
function markedBefore(photo: Photo, all: Photo[]): Draft {
  const alike = all.filter(
    (p) => p.code === photo.code && p.view === photo.view && p.marked,
  );
  const marked = photo.marked ?? alike.at(-1)?.marked;
  return {
    corners: marked?.corners.map(point) ?? WHOLE,
    card: marked?.card ? point(marked.card) : null,
    readiness: marked?.readiness ?? 0.5,
    ruler: marked?.ruler?.ends.map(point) ?? null,
    mm: String(marked?.ruler?.mm ?? 100),
    // A line is of its own picture alone.
    line: photo.marked?.line?.map(point) ?? null,
  };
}

/** As it is sent. */
function marksOf({
  corners,
  card,
  readiness,
  ruler,
  mm,
  line,
}: Draft): Schemas["Marked"] {
  return {
    corners,
    card,
    readiness,
    ...(ruler ? { ruler: { ends: ruler, mm: typed(mm) ?? 0 } } : {}),
    ...(ruler && line ? { line } : {}),
  };
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
  const [ghostly, setGhostly] = useState(false);
  const before = own[at - 1];
  const keep = () =>
    mark.mutate({
      photo: photo.id,
      marked: marksOf(draft),
      version: photo.version,
    });
  return (
    <div className="photo-bench">
      <header>
        <h3>{words.open(photo.code, photo.day)}</h3>
        <button
          type="button"
          className="plain"
          disabled={at <= 0}
          onClick={() => open(own[at - 1]?.id ?? null)}
        >
          {words.earlier}
        </button>
        <button
          type="button"
          className="plain"
          disabled={at >= own.length - 1}
          onClick={() => open(own[at + 1]?.id ?? null)}
        >
          {words.later}
        </button>
        <button
          type="button"
          className="plain close"
          onClick={() => open(null)}
        >
          {words.close}
        </button>
      </header>
      <PhotoMarking
        trial={trial}
        photo={photo}
        ghost={
          ghostly && before ? pictureOf(trial.id, before.id, "file") : null
        }
        draft={draft}
        setDraft={(marks) => setDraft({ ...draft, ...marks })}
      />
      <div className="photo-figures">
        {before && (
          <Checkbox
            checked={ghostly}
            onChange={(e) => setGhostly(e.target.checked)}
          >
            {words.ghost(before.day)}
          </Checkbox>
        )}
        {trial.reveal === null && (
          <>
            <p className="soft">{inWords(trial, words.corners)}</p>
            <label className="readiness">
              <span>{words.readiness}</span>
              <Slider
                min={0}
                max={1}
                step={0.05}
                value={draft.readiness}
                tooltip={{ open: false }}
                ariaLabelForHandle={words.readiness}
                marks={{ 0: words.less, 1: words.more }}
                onChange={(readiness) => setDraft({ ...draft, readiness })}
              />
            </label>
            <Checkbox
              checked={draft.card !== null}
              onChange={(e) =>
                setDraft({
                  ...draft,
                  card: e.target.checked ? [0.05, 0.05] : null,
                })
              }
            >
              {words.card}
            </Checkbox>
            <Lengths photo={photo} draft={draft} setDraft={setDraft} />
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

/** Figures that are there only with a ruler. */
const BY_RULER = ["leaf_cm2", "line_mm"];

interface LengthsProps {
  photo: Photo;
  draft: Draft;
  setDraft: (draft: Draft) => void;
}

/** A ruler in the picture, and a line that it measures: a stem from the side, a root from below. */
function Lengths({ photo, draft, setDraft }: LengthsProps) {
  const words = text.tend.photos;
  return (
    <>
      <Checkbox
        checked={draft.ruler !== null}
        onChange={(e) =>
          setDraft({
            ...draft,
            ruler: e.target.checked ? RULER : null,
            line: null,
          })
        }
      >
        {words.ruler}
      </Checkbox>
      {draft.ruler && (
        <>
          <label className="field">
            <span>{words.rulerLength}</span>
            <Input
              name="ruler-mm"
              inputMode="decimal"
              value={draft.mm}
              onChange={(e) => setDraft({ ...draft, mm: e.target.value })}
            />
          </label>
          <Checkbox
            checked={draft.line !== null}
            onChange={(e) =>
              setDraft({ ...draft, line: e.target.checked ? LINE : null })
            }
          >
            {words.line[photo.view] ?? words.line["top"]}
          </Checkbox>
        </>
      )}
    </>
  );
}

function FigureList({ figures }: { figures: Schemas["Figures"] }) {
  const words = text.tend.photos;
  const values = figures as unknown as Record<string, number | null>;
  return (
    <>
      <dl>
        {Object.entries(words.figures)
          .filter(
            ([key]) =>
              !BY_RULER.includes(key) || typeof values[key] === "number",
          )
          .map(([key, [name, unit, decimals]]) => {
            const value = values[key];
            return (
              <div key={key}>
                <dt>{name}</dt>
                <dd>
                  {typeof value === "number"
                    ? `${shown(value, decimals)} ${unit}`
                    : "–"}
                </dd>
              </div>
            );
          })}
      </dl>
      <p className="soft">{words.goesOn}</p>
    </>
  );
}
