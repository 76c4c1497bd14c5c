import { useQuery } from "@tanstack/react-query";
import { Segmented, Select } from "antd";
import { useState } from "react";
import type { TrialView } from "../../api/client";
import { Trouble } from "../../frame/Trouble";
import { inWords } from "../../marks/words";
import type { Picture } from "../../api/outbox";
import { photosQuery, useEntry } from "../../queries/trial";
import { text } from "../../text/en";
import { ContactSheet, SmallPhoto } from "./ContactSheet";
import { PhotoBench } from "./PhotoBench";
import { PhotoCompare } from "./PhotoCompare";
import "./photos.css";

/** Photos by day, told by code; each can be opened, marked and measured. */
export function Photos({ trial }: { trial: TrialView }) {
  const words = text.tend.photos;
  const photos = useQuery(photosQuery(trial.id));
  const [open, setOpen] = useState<string | null>(null);
  const [sheet, setSheet] = useState("day");
  const all = photos.data?.photos ?? [];
  const days = [...new Set(all.map((p) => p.day))].sort((a, b) => b - a);
  const photo = all.find((p) => p.id === open);
  return (
    <section className="photos">
      <h2>{words.title}</h2>
      {trial.reveal === null && <AddPhoto trial={trial} />}
      <Trouble error={photos.error} />
      {photos.data && all.length === 0 && <p className="soft">{words.none}</p>}
      {photo && (
        <PhotoBench
          key={photo.id}
          trial={trial}
          photo={photo}
          all={all}
          open={setOpen}
        />
      )}
      {all.length > 1 && (
        <>
          <PhotoCompare trial={trial} all={all} />
          <Segmented
            value={sheet}
            onChange={setSheet}
            aria-label={words.sheet}
            options={[
              { value: "day", label: words.sheets.day },
              { value: "tray", label: inWords(trial, words.sheets.tray) },
            ]}
          />
        </>
      )}
      {sheet === "tray" && all.length > 1 ? (
        <ContactSheet trial={trial} all={all} open={setOpen} />
      ) : (
        days.map((day) => (
          <div key={day} className="contact">
            <h3>{text.tend.day(day)}</h3>
            <ul>
              {all
                .filter((p) => p.day === day)
                .map((p) => (
                  <li key={p.id}>
                    <SmallPhoto
                      trial={trial.id}
                      photo={p}
                      open={() => setOpen(p.id)}
                    />
                  </li>
                ))}
            </ul>
          </div>
        ))
      )}
    </section>
  );
}

/** A picture from the phone's camera or from a file. */
function AddPhoto({ trial }: { trial: TrialView }) {
  const words = text.tend.photos;
  const standing = trial.units.filter((u) => u.now && !u.lost);
  const walk = [...standing].sort((a, b) => a.walk - b.walk);
  const [code, setCode] = useState(walk[0]?.code ?? "");
  const [view, setView] = useState<Picture["view"]>("top");
  const add = useEntry(trial.id);
  const send = (file: File | undefined) => {
    if (file) {
      // On to the next tray of the walk: the next picture is most likely of it.
      const next = walk[walk.findIndex((u) => u.code === code) + 1];
      add.mutate(
        { trial: trial.id, picture: { code, view, file } },
        { onSuccess: () => setCode(next?.code ?? code) },
      );
    }
  };
  return (
    <>
      <p className="soft">{inWords(trial, words.why)}</p>
      <div className="add-photo">
        <label className="field">
          <span>{words.of}</span>
          <Select
            value={code}
            onChange={setCode}
            options={walk.map((u) => ({ value: u.code, label: u.code }))}
            aria-label={words.of}
          />
        </label>
        <label className="field">
          <span>{words.view}</span>
          <Select
            value={view}
            onChange={setView}
            options={Object.entries(words.views).map(([value, label]) => ({
              value,
              label,
            }))}
            aria-label={words.view}
          />
        </label>
        <label className={add.isPending ? "file busy" : "file"}>
          {words.add}
          <input
            type="file"
            name="photo"
            accept="image/jpeg,image/png"
            disabled={add.isPending}
            onChange={(e) => {
              send(e.target.files?.[0]);
              e.target.value = "";
            }}
          />
        </label>
      </div>
      {add.data === "kept" && (
        <p className="soft" role="status">
          {text.tend.work.unsent}
        </p>
      )}
      <Trouble error={add.error} />
    </>
  );
}
