import { useQueryClient } from "@tanstack/react-query";
import { Fragment, useRef, useState, type KeyboardEvent } from "react";
import { newKey, send } from "../../api/outbox";
import type { Schemas, TrialView } from "../../api/client";
import { noteSaved } from "../../frame/saved";
import { shown, typed } from "../../marks/number";
import { useNarrow } from "../../marks/useNarrow";
import { refreshTrial, tendQuery } from "../../queries/trial";
import { inWords } from "../../marks/words";
import { text } from "../../text/en";

interface GridProps {
  trial: TrialView;
  day: number;
  readings: Schemas["Column"][];
  rows: Schemas["GridRow"][];
}

type Said =
  | { kind: "ask"; message: string; value: number }
  | { kind: "stale"; message: string; value: number | null }
  | { kind: "wrong"; message: string };

/** An entry on its way to the server. */
interface Flight {
  value: number | null;
  confirmed: boolean;
  done: Promise<void>;
}

/** A reading with the crop it is of, where several share a unit. */
const named = (r: Schemas["Column"]) => (r.crop_name ? `${r.name}, ${r.crop_name}` : r.name);

/** Readings that stand side by side on a phone. */
const MOST_ON_A_PHONE = 3;

/** Units in walking order, readings side by side; Enter walks down one reading. Codes only: the blind holds here. */
export function Grid({ trial, day, readings, rows }: GridProps) {
  const queries = useQueryClient();
  const table = useRef<HTMLTableElement>(null);
  const [drafts, setDrafts] = useState<Record<string, string>>({});
  const [said, setSaid] = useState<Record<string, Said>>({});
  const [kept, setKept] = useState<Record<string, number | null>>({});
  const flights = useRef(new Map<string, Flight>());
  const narrow = useNarrow();
  const [only, setOnly] = useState(0);
  // On a phone more readings than fit are taken one after the other, all trays of one before the next.
  const oneByOne = narrow && readings.length > MOST_ON_A_PHONE;
  const visible = (column: number) => !oneByOne || column === only;
  const open = trial.reveal === null;
  const placeOf = (row: number, column: number) => `${day}/${row}/${column}`;
  const focus = (row: number, column: number) => {
    const go = () => {
      const field = table.current?.querySelector<HTMLInputElement>(`input[data-place="${row}-${column}"]`);
      field?.focus();
      field?.select();
    };
    if (visible(column)) {
      go();
    } else {
      setOnly(column);
      window.setTimeout(go);
    }
  };
  const without = <T,>(all: Record<string, T>, key: string) => Object.fromEntries(Object.entries(all).filter(([k]) => k !== key));

  const freshVersion = (code: string, column: number) => {
    const fresh = queries.getQueryData(tendQuery(trial.id, day).queryKey) ?? queries.getQueryData(tendQuery(trial.id, null).queryKey);
    return fresh?.rows.find((r) => r.unit.code === code)?.cells[column]?.version;
  };

  /** Sends a value. Entries of one cell go one after the other, so that nobody clashes with their own last entry. */
  const record = (row: number, column: number, value: number | null, confirmed: boolean, over = false) => {
    const place = placeOf(row, column);
    const before = flights.current.get(place);
    if (before?.value === value && before.confirmed === confirmed && !over) {
      // Enter sends, and leaving the field right after would send the same again.
      return before.done;
    }
    const done = (before?.done ?? Promise.resolve())
      .then(() => put(row, column, value, confirmed, over || before !== undefined))
      .finally(() => {
        if (flights.current.get(place)?.done === done) {
          flights.current.delete(place);
        }
      });
    flights.current.set(place, { value, confirmed, done });
    return done;
  };

  const put = async (row: number, column: number, value: number | null, confirmed: boolean, over: boolean) => {
    const [gridRow, reading] = [rows[row], readings[column]];
    const cell = gridRow?.cells[column];
    if (!gridRow || !reading || !cell) {
      return;
    }
    const place = placeOf(row, column);
    setSaid((all) => without(all, place));
    let version = cell.version;
    if (over) {
      // On top of what stands there now.
      await refreshTrial(queries, trial.id);
      version = freshVersion(gridRow.unit.code, column) ?? version;
    }
    const body = { code: gridRow.unit.code, reading: reading.key, crop: reading.crop ?? null, day, value, confirmed, version };
    const outcome = await send({ kind: "reading", trial: trial.id, key: newKey(), body });
    switch (outcome.state) {
      case "saved":
        noteSaved();
        setKept((all) => without(all, place));
        await refreshTrial(queries, trial.id);
        // What was typed into the field meanwhile stays.
        setDrafts((all) => (typed(all[place] ?? "") === value ? without(all, place) : all));
        return;
      case "kept":
        setKept((all) => ({ ...all, [place]: value }));
        return;
      case "refused": {
        const { code, detail, stored } = outcome.problem;
        if (code === "unlikely" && value !== null) {
          setSaid((all) => ({ ...all, [place]: { kind: "ask", message: detail, value } }));
        } else if (code === "stale") {
          setSaid((all) => ({ ...all, [place]: { kind: "stale", message: text.tend.stale(stored ?? ""), value } }));
        } else {
          setSaid((all) => ({ ...all, [place]: { kind: "wrong", message: detail } }));
        }
      }
    }
  };

  /** Takes what is typed. Returns whether one may walk on. */
  const take = (row: number, column: number): boolean => {
    const place = placeOf(row, column);
    const draft = drafts[place];
    const standing = said[place];
    if (standing?.kind === "stale") {
      void record(row, column, standing.value, true, true);
      return true;
    }
    if (draft === undefined) {
      return true;
    }
    const value = typed(draft);
    if (value === null) {
      setDrafts((all) => without(all, place));
      return true;
    }
    if (Number.isNaN(value)) {
      setSaid((all) => ({ ...all, [place]: { kind: "wrong", message: text.tend.notNumber } }));
      return false;
    }
    const cell = rows[row]?.cells[column];
    if (cell?.value === value) {
      setDrafts((all) => without(all, place));
      return true;
    }
    void record(row, column, value, false);
    return true;
  };

  const onKey = (event: KeyboardEvent<HTMLInputElement>, row: number, column: number) => {
    const place = placeOf(row, column);
    const empty = (drafts[place] ?? "") === "";
    if (event.key === "Enter") {
      event.preventDefault();
      if (take(row, column)) {
        focus(row + 1 < rows.length ? row + 1 : 0, row + 1 < rows.length ? column : Math.min(column + 1, readings.length - 1));
      }
    } else if (event.key === "." && empty && row > 0) {
      // A lone point repeats the tray before; inside a number it is a decimal point.
      event.preventDefault();
      const above = typed(drafts[placeOf(row - 1, column)] ?? "") ?? rows[row - 1]?.cells[column]?.value ?? kept[placeOf(row - 1, column)];
      if (typeof above === "number" && !Number.isNaN(above)) {
        setDrafts((all) => ({ ...all, [place]: String(above) }));
        void record(row, column, above, false);
        focus(Math.min(row + 1, rows.length - 1), column);
      }
    } else if (event.key === "-" && empty) {
      event.preventDefault();
      void record(row, column, null, false);
      focus(Math.min(row + 1, rows.length - 1), column);
    } else if (event.key === "ArrowDown" || event.key === "ArrowUp") {
      event.preventDefault();
      focus(Math.max(0, Math.min(rows.length - 1, row + (event.key === "ArrowDown" ? 1 : -1))), column);
    }
  };

  return (
    <>
      {open && <p className="soft hint">{text.tend.hint}</p>}
      {oneByOne && (
        <div className="one-by-one" role="group" aria-label={text.tend.oneByOne}>
          {readings.map((r, column) => (
            <button key={`${r.key}-${r.crop ?? 0}`} type="button" aria-pressed={column === only} onClick={() => setOnly(column)}>
              {named(r)}
            </button>
          ))}
        </div>
      )}
      <table className="grid" ref={table}>
        <thead>
          <tr>
            <th scope="col">{inWords(trial, text.tend.tray)}</th>
            {readings.map((r, column) => visible(column) && (
              <th key={`${r.key}-${r.crop ?? 0}`} scope="col">
                {r.name}
                {r.crop_name && <em>{r.crop_name}</em>}
                {r.unit && <small> {r.unit}</small>}
                {r.scale && <small className="scale">{r.scale}</small>}
                {rows.some((row) => typeof row.cells[column]?.previous === "number") && <small className="was">{text.tend.before}</small>}
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {rows.map((gridRow, row) => (
            <Fragment key={gridRow.unit.code}>
              <tr className={gridRow.unit.lost ? "lost" : rows[row - 1]?.unit.level !== gridRow.unit.level ? "new-level" : ""}>
                <th scope="row">
                  <b>{gridRow.unit.code}</b> <small>{gridRow.unit.level_name}</small>
                </th>
                {gridRow.cells.map((cell, column) => {
                  if (!visible(column)) {
                    return null;
                  }
                  const reading = readings[column];
                  const place = placeOf(row, column);
                  const standing = cell.missing ? text.tend.missing : cell.value === null ? "" : shown(cell.value, reading?.decimals ?? 1);
                  const waits = place in kept;
                  return (
                    <td key={column}>
                      <div className="cell">
                        <input
                          data-place={`${row}-${column}`} inputMode="decimal" autoComplete="off" disabled={!open || Boolean(gridRow.unit.lost)}
                          className={`${said[place] ? "wants" : ""}${waits ? " kept" : ""}`}
                          aria-label={inWords(trial, text.tend.field(reading ? named(reading) : cell.reading, gridRow.unit.code))}
                          aria-invalid={said[place] ? true : undefined}
                          value={drafts[place] ?? standing}
                          onFocus={(e) => e.target.select()}
                          onChange={(e) => setDrafts((all) => ({ ...all, [place]: e.target.value }))}
                          onKeyDown={(e) => onKey(e, row, column)}
                          onBlur={() => (said[place] ? undefined : take(row, column))}
                        />
                        {typeof cell.previous === "number" && (
                          <small title={text.tend.day(cell.previous_day ?? 0)}>{shown(cell.previous, reading?.decimals ?? 1)}</small>
                        )}
                      </div>
                    </td>
                  );
                })}
              </tr>
              {gridRow.cells.map((_, column) => {
                const place = placeOf(row, column);
                const word = said[place];
                return word ? (
                  <tr key={column} className="word">
                    <td colSpan={readings.length + 1} role="alert">
                      {word.message}{" "}
                      {word.kind === "ask" && (
                        <>
                          <button type="button" className="plain" onClick={() => void record(row, column, word.value, true)}>
                            {text.tend.confirm}
                          </button>{" "}
                          <button
                            type="button" className="plain"
                            onClick={() => {
                              setSaid((all) => without(all, place));
                              setDrafts((all) => without(all, place));
                              focus(row, column);
                            }}
                          >
                            {text.tend.again}
                          </button>
                        </>
                      )}
                    </td>
                  </tr>
                ) : null;
              })}
            </Fragment>
          ))}
        </tbody>
      </table>
    </>
  );
}
