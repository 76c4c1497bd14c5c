import { Segmented, Select } from "antd";
import { useState } from "react";
import type { Schemas, TrialView } from "../../api/client";
import { inWords } from "../../marks/words";
import { pictureOf } from "../../queries/trial";
import { text } from "../../text/en";

type Photo = Schemas["PhotoView"];

/** A tray laid flat; corners that are marked anew give another picture. */
const flatOf = (trial: string, photo: Photo) =>
  `${pictureOf(trial, photo.id, "flat")}?version=${photo.version}`;

/** Two trays, or two days of one, laid flat at one scale: one over the other with an edge drawn across, or side by side. */
export function PhotoCompare({
  trial,
  all,
}: {
  trial: TrialView;
  all: Photo[];
}) {
  const words = text.tend.photos;
  const last = all.at(-1);
  const before =
    all.findLast(
      (p) => p.code === last?.code && p.view === last.view && p.id !== last.id,
    ) ?? all.at(-2);
  const [chosen, setChosen] = useState<{ left?: string; right?: string }>({});
  const [way, setWay] = useState<"wipe" | "beside">("wipe");
  const [edge, setEdge] = useState(50);
  const [shown, setShown] = useState(false);
  const named = (p: Photo) =>
    `${p.code}, ${text.tend.day(p.day)}, ${words.views[p.view] ?? p.view}`;
  const options = all.map((p) => ({ value: p.id, label: named(p) }));
  const left = all.find((p) => p.id === chosen.left) ?? before;
  const right = all.find((p) => p.id === chosen.right) ?? last;
  if (!left || !right) {
    return null;
  }
  return (
    <details
      className="photo-compare"
      onToggle={(e) => setShown(e.currentTarget.open)}
    >
      <summary>{words.compare}</summary>
      <p className="soft">{inWords(trial, words.compareWhy)}</p>
      <div className="row">
        <label className="field">
          <span>{words.left}</span>
          <Select
            value={left.id}
            onChange={(id) => setChosen({ ...chosen, left: id })}
            options={options}
            aria-label={words.left}
            popupMatchSelectWidth={false}
          />
        </label>
        <label className="field">
          <span>{words.right}</span>
          <Select
            value={right.id}
            onChange={(id) => setChosen({ ...chosen, right: id })}
            options={options}
            aria-label={words.right}
            popupMatchSelectWidth={false}
          />
        </label>
        <Segmented
          value={way}
          onChange={setWay}
          options={[
            { value: "wipe", label: words.ways.wipe },
            { value: "beside", label: words.ways.beside },
          ]}
        />
      </div>
      {shown && way === "wipe" && (
        <div className="wiped">
          <img
            src={flatOf(trial.id, left)}
            alt={words.look(left.code, left.day)}
          />
          <img
            className="over"
            src={flatOf(trial.id, right)}
            alt={words.look(right.code, right.day)}
            style={{ clipPath: `inset(0 0 0 ${edge}%)` }}
          />
          <span className="wipe-edge" style={{ left: `${edge}%` }} />
          <input
            type="range"
            min={0}
            max={100}
            value={edge}
            aria-label={words.edge}
            onChange={(e) => setEdge(Number(e.target.value))}
          />
        </div>
      )}
      {shown && way === "beside" && (
        <div className="two-beside">
          {[left, right].map((p, n) => (
            <figure key={n}>
              <img src={flatOf(trial.id, p)} alt={words.look(p.code, p.day)} />
              <figcaption>{named(p)}</figcaption>
            </figure>
          ))}
        </div>
      )}
    </details>
  );
}
