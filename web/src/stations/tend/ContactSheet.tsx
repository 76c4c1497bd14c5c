import { Segmented } from "antd";
import { useState } from "react";
import type { Schemas, TrialView } from "../../api/client";
import { shown } from "../../marks/number";
import { Wide } from "../../marks/Wide";
import { inWords } from "../../marks/words";
import { pictureOf } from "../../queries/trial";
import { text } from "../../text/en";

type Photo = Schemas["PhotoView"];

interface SheetProps {
  trial: TrialView;
  all: Photo[];
  open: (id: string) => void;
}

/** Every tray in a row, day by day: by code while the key is shut, under its treatment once it is open. */
export function ContactSheet({ trial, all, open }: SheetProps) {
  const words = text.tend.photos;
  const views = [...new Set(all.map((p) => p.view))];
  const [chosen, setChosen] = useState<string | null>(null);
  const view = chosen ?? views[0];
  const own = all.filter((p) => p.view === view);
  const days = [...new Set(own.map((p) => p.day))].sort((a, b) => a - b);
  const treatmentOf = new Map(
    trial.units.map((u) => [u.code, u.treatment ?? null]),
  );
  const rank = (code: string) => treatmentOf.get(code) ?? 0;
  const codes = [...new Set(own.map((p) => p.code))].sort(
    (a, b) => rank(a) - rank(b) || a.localeCompare(b),
  );
  const names = codes.map(
    (code) => trial.sheet.treatments[treatmentOf.get(code) ?? -1]?.name ?? null,
  );
  const told = names.some((name) => name !== null);
  return (
    <>
      {views.length > 1 && (
        <Segmented
          value={view ?? ""}
          onChange={setChosen}
          aria-label={words.view}
          options={views.map((value) => ({ value, label: words.views[value] }))}
        />
      )}
      <Wide className="photo-sheet" name={words.sheets.tray}>
        <table>
          <thead>
            <tr>
              <th scope="col">{inWords(trial, text.tend.tray)}</th>
              {days.map((day) => (
                <th key={day} scope="col">
                  {text.tend.day(day)}
                </th>
              ))}
            </tr>
          </thead>
          <tbody>
            {codes.map((code, n) => (
              <tr
                key={code}
                className={
                  told && names[n] !== names[n - 1] ? "new-treatment" : ""
                }
              >
                <th scope="row">
                  <b>{code}</b>
                  {names[n] && <small>{names[n]}</small>}
                </th>
                {days.map((day) => (
                  <td key={day}>
                    {own
                      .filter((p) => p.code === code && p.day === day)
                      .map((p) => (
                        <SmallPhoto
                          key={p.id}
                          trial={trial.id}
                          photo={p}
                          open={() => open(p.id)}
                        />
                      ))}
                  </td>
                ))}
              </tr>
            ))}
          </tbody>
        </table>
      </Wide>
    </>
  );
}

/** A photo as it stands among others; a tap opens it. */
export function SmallPhoto({
  trial,
  photo,
  open,
}: {
  trial: string;
  photo: Photo;
  open: () => void;
}) {
  const words = text.tend.photos;
  return (
    <button type="button" className="small-photo" onClick={open}>
      <img
        src={pictureOf(trial, photo.id, "small")}
        alt={words.look(photo.code, photo.day)}
        loading="lazy"
      />
      <b>{photo.code}</b> {words.views[photo.view]}
      {photo.figures && (
        <em>{words.measured(shown(photo.figures.cover_percent, 1))}</em>
      )}
    </button>
  );
}
