import { Fragment, useRef, useState, type KeyboardEvent } from "react";
import type { Schemas, TrialView } from "../../api/client";
import { ProbeBar } from "../../frame/ProbeBar";
import { shown } from "../../marks/number";
import { useNarrow } from "../../marks/useNarrow";
import { inWords } from "../../marks/words";
import { Wide } from "../../marks/Wide";
import { mayBeTaken, useProbe } from "../../queries/instruments";
import { text } from "../../text/en";
import { Anchors } from "./Anchors";
import { useEntries, type Entries, type Place } from "./entries";

type Column = Schemas["Column"];
type Row = Schemas["GridRow"];

interface GridProps {
  trial: TrialView;
  day: number;
  readings: Column[];
  rows: Row[];
}

/** A reading with the crop it is of, where several share a unit. */
const named = (r: Column) =>
  r.crop_name ? `${r.name}, ${r.crop_name}` : r.name;
const idOf = (r: Column) => `${r.key}-${r.crop ?? 0}`;
/** The first sample's row holds what is of the whole unit as well. */
const placeOf = (row: Row, reading: Column): Place => ({
  code: row.unit.code,
  reading: reading.key,
  crop: reading.crop ?? null,
  sample: reading.of_unit ? null : (row.sample ?? null),
});
const rowKey = (row: Row) => `${row.unit.code}/${row.sample ?? 0}`;

/** Readings that stand side by side on a phone. */
const MOST_ON_A_PHONE = 3;

/** Puts the cursor into a cell; into one that is not shown yet, once it is. */
function focused(
  table: HTMLTableElement | null,
  row: number,
  column: number,
  show: (() => void) | null,
): void {
  const go = () => {
    const field = table?.querySelector<HTMLInputElement>(
      `input[data-place="${row}-${column}"]`,
    );
    field?.focus();
    field?.select();
  };
  if (show) {
    show();
    window.setTimeout(go);
  } else {
    go();
  }
}

/** Units in walking order, readings side by side; Enter walks down one reading. Codes only: the blind holds here. */
export function Grid({ trial, day, readings, rows }: GridProps) {
  const table = useRef<HTMLTableElement>(null);
  const entries = useEntries(trial, day);
  const narrow = useNarrow();
  const [only, setOnly] = useState(0);
  const [at, setAt] = useState(0);
  // On a phone more readings than fit are taken one after the other, all trays of one before the next.
  const oneByOne = narrow && readings.length > MOST_ON_A_PHONE;
  const visible = (column: number) => !oneByOne || column === only;
  const open = trial.reveal === null;
  const probe = useProbe();
  const focus = (row: number, column: number) =>
    focused(
      table.current,
      row,
      column,
      visible(column) ? null : () => setOnly(column),
    );
  const onKey = (
    event: KeyboardEvent<HTMLInputElement>,
    row: number,
    column: number,
  ) => walk(event, { rows, readings, entries, focus, row, column, probe });
  return (
    <>
      {open && <p className="soft hint">{text.tend.hint}</p>}
      {open && probe && <ProbeBar values={probe} />}
      {oneByOne && (
        <OneByOne readings={readings} only={only} setOnly={setOnly} />
      )}
      <Anchors reading={readings[oneByOne ? only : at]} />
      <Wide className="grid-wide" name={text.tend.gridName}>
        <table className="grid" ref={table}>
          <Heads
            trial={trial}
            readings={readings}
            rows={rows}
            visible={visible}
          />
          <tbody>
            {rows.map((gridRow, row) => (
              <Fragment key={rowKey(gridRow)}>
                <tr
                  className={
                    gridRow.unit.lost
                      ? "lost"
                      : rows[row - 1]?.unit.level !== gridRow.unit.level
                        ? "new-level"
                        : ""
                  }
                >
                  <th scope="row">
                    <b>{gridRow.unit.code}</b>
                    {gridRow.sample ? (
                      <b className={gridRow.gone ? "sample is-gone" : "sample"}>
                        {gridRow.sample}
                      </b>
                    ) : null}{" "}
                    {(gridRow.sample ?? 1) === 1 && (
                      <small>{gridRow.unit.place}</small>
                    )}
                  </th>
                  {readings.map((reading, column) =>
                    visible(column) ? (
                      <Cell
                        key={idOf(reading)}
                        trial={trial}
                        gridRow={gridRow}
                        reading={reading}
                        cell={gridRow.cells[column]}
                        isFirst={
                          readings.findIndex((r) => !r.of_unit) === column
                        }
                        at={`${row}-${column}`}
                        entries={entries}
                        onKey={(e) => onKey(e, row, column)}
                        onHere={() => setAt(column)}
                      />
                    ) : null,
                  )}
                </tr>
                {readings.map((reading, column) => (
                  <Word
                    key={idOf(reading)}
                    entries={entries}
                    place={placeOf(gridRow, reading)}
                    columns={readings.length + 1}
                    back={() => focus(row, column)}
                  />
                ))}
              </Fragment>
            ))}
          </tbody>
        </table>
      </Wide>
    </>
  );
}

interface OneByOneProps {
  readings: Column[];
  only: number;
  setOnly: (column: number) => void;
}

/** Which reading is taken, where there are more than fit beside one another. */
function OneByOne({ readings, only, setOnly }: OneByOneProps) {
  return (
    <div className="one-by-one" role="group" aria-label={text.tend.oneByOne}>
      {readings.map((r, column) => (
        <button
          key={idOf(r)}
          type="button"
          aria-pressed={column === only}
          onClick={() => setOnly(column)}
        >
          {named(r)}
        </button>
      ))}
    </div>
  );
}

interface Walk {
  rows: Row[];
  readings: Column[];
  entries: Entries;
  focus: (row: number, column: number) => void;
  row: number;
  column: number;
  /** What the probe shows; null without one. */
  probe: Probe | null;
}

type Probe = Map<Schemas["Measured"], Schemas["MeterValue"]>;

/** The next row that has a field in this column: what is of the whole unit has it in the row of its first sample only, and a
 *  sample that is gone has none. */
function nextRow(
  rows: Row[],
  reading: Column,
  { row, column }: { row: number; column: number },
  step: 1 | -1,
): number {
  let to = row + step;
  while (
    rows[to]?.cells[column] === null ||
    (rows[to]?.gone && !reading.of_unit)
  ) {
    to += step;
  }
  return rows[to] ? to : row;
}

/** Keys of the grid: Enter takes and walks on, a lone point repeats, a lone minus marks as missing, an equals sign takes what the
 *  probe shows, arrows go up and down. */
function walk(
  event: KeyboardEvent<HTMLInputElement>,
  { rows, readings, entries, focus, row, column, probe }: Walk,
): void {
  const [gridRow, reading] = [rows[row], readings[column]];
  if (!gridRow || !reading) {
    return;
  }
  const place = placeOf(gridRow, reading);
  const empty = (entries.draftOf(place) ?? "") === "";
  const next = (step: 1 | -1): number =>
    nextRow(rows, reading, { row, column }, step);
  const down = next(1);
  const on = () =>
    focus(
      down > row ? down : 0,
      down > row ? column : Math.min(column + 1, readings.length - 1),
    );
  switch (event.key) {
    case "Enter":
      event.preventDefault();
      if (entries.take(place)) {
        on();
      }
      return;
    case ".": {
      // Inside a number it is a decimal point.
      const before = empty && next(-1) < row ? rows[next(-1)] : undefined;
      if (before) {
        event.preventDefault();
        repeat(entries, place, placeOf(before, reading), () =>
          focus(down, column),
        );
      }
      return;
    }
    case "=":
      event.preventDefault();
      fromProbe(entries, place, probe, on);
      return;
    case "-":
      if (empty) {
        event.preventDefault();
        entries.record(place, null);
        focus(down, column);
      }
      return;
    case "Tab":
      // What is asked about is answered before the cursor leaves.
      if (!entries.take(place)) {
        event.preventDefault();
      }
      return;
    case "+":
      if (empty && gridRow.cells[column]?.times) {
        event.preventDefault();
        entries.readMore(place);
      }
      return;
    case "ArrowDown":
    case "ArrowUp":
      event.preventDefault();
      focus(next(event.key === "ArrowDown" ? 1 : -1), column);
  }
}

/** Takes what the probe shows, once it stands still; never what moves. */
function fromProbe(
  entries: Entries,
  place: Place,
  probe: Probe | null,
  walkOn: () => void,
): void {
  const value = probe?.get(place.reading as Schemas["Measured"]);
  if (mayBeTaken(value)) {
    entries.type(place, String(value.value));
    if (entries.take(place)) {
      walkOn();
    }
  }
}

/** Puts the value of another cell into this one. */
function repeat(
  entries: Entries,
  place: Place,
  from: Place,
  walkOn: () => void,
): void {
  const value = entries.valueOf(from);
  if (value !== null) {
    entries.type(place, String(value));
    entries.record(place, value);
    walkOn();
  }
}

interface HeadsProps {
  trial: TrialView;
  readings: Column[];
  rows: Row[];
  visible: (column: number) => boolean;
}

function Heads({ trial, readings, rows, visible }: HeadsProps) {
  return (
    <thead>
      <tr>
        <th scope="col">{inWords(trial, text.tend.tray)}</th>
        {readings.map(
          (r, column) =>
            visible(column) && (
              <th key={idOf(r)} scope="col">
                {r.name}
                {r.crop_name && <em>{r.crop_name}</em>}
                {r.unit && <small> {r.unit}</small>}
                {r.scale && <small className="scale">{r.scale}</small>}
                <SoFar rows={rows} column={column} decimals={r.decimals} />
                {rows.some(
                  (row) => typeof row.cells[column]?.previous === "number",
                ) && <small className="was">{text.tend.before}</small>}
              </th>
            ),
        )}
      </tr>
    </thead>
  );
}

interface SoFarProps {
  rows: Row[];
  column: number;
  decimals: number;
}

/** Between which values the siblings lie on this day, as far as they are read. */
function SoFar({ rows, column, decimals }: SoFarProps) {
  const values = rows.flatMap((row) =>
    typeof row.cells[column]?.value === "number"
      ? [row.cells[column].value]
      : [],
  );
  return values.length < 2 ? null : (
    <small className="so-far">
      {text.tend.soFar(
        shown(Math.min(...values), decimals),
        shown(Math.max(...values), decimals),
      )}
    </small>
  );
}

interface CellProps {
  trial: TrialView;
  gridRow: Row;
  reading: Column;
  cell: Schemas["Cell"] | null | undefined;
  /** Whether it is the first that is read sample by sample: there it is said that one is gone. */
  isFirst: boolean;
  at: string;
  entries: Entries;
  onKey: (event: KeyboardEvent<HTMLInputElement>) => void;
  /** The cursor came into it. */
  onHere: () => void;
}

/** One field, with the value before beside it. */
function Cell({
  trial,
  gridRow,
  reading,
  cell,
  isFirst,
  at,
  entries,
  onKey,
  onHere,
}: CellProps) {
  const place = placeOf(gridRow, reading);
  if (cell === null) {
    return <td className="of-unit" />;
  }
  if (gridRow.gone && !reading.of_unit) {
    return (
      <td className="sample-gone" title={gridRow.gone.note}>
        {isFirst && gridRow.gone.words}
      </td>
    );
  }
  const [said, waits] = [entries.saidOf(place), entries.waits(place)];
  const standing = cell?.missing
    ? text.tend.missing
    : typeof cell?.value === "number"
      ? shown(cell.value, reading.decimals)
      : "";
  return (
    <td>
      <div className="cell">
        <input
          data-place={at}
          inputMode="decimal"
          autoComplete="off"
          disabled={trial.reveal !== null || Boolean(gridRow.unit.lost)}
          className={`${said ? "wants" : ""}${entries.isKept(place) ? " kept" : ""}`}
          aria-label={inWords(
            trial,
            text.tend.field(
              named(reading),
              gridRow.sample
                ? `${gridRow.unit.code} ${gridRow.sample}`
                : gridRow.unit.code,
            ),
          )}
          aria-invalid={said ? true : undefined}
          value={
            entries.draftOf(place) ??
            (waits === null ? standing : String(waits))
          }
          placeholder={
            entries.readsMore(place)
              ? text.tend.oneMore
              : cell?.hidden
                ? text.tend.kept
                : undefined
          }
          onFocus={(e) => {
            e.target.select();
            onHere();
          }}
          onChange={(e) => entries.type(place, e.target.value)}
          onKeyDown={onKey}
          onBlur={() => (said ? undefined : entries.take(place))}
        />
        {(cell?.times ?? 0) > 1 && (
          <small className="times">{text.tend.times(cell?.times ?? 0)}</small>
        )}
        {typeof cell?.previous === "number" && (
          <small title={text.tend.day(cell.previous_day ?? 0)}>
            {shown(cell.previous, reading.decimals)}
          </small>
        )}
      </div>
    </td>
  );
}

interface WordProps {
  entries: Entries;
  place: Place;
  columns: number;
  back: () => void;
}

/** What was said of a cell, below its row. */
function Word({ entries, place, columns, back }: WordProps) {
  const word = entries.saidOf(place);
  if (!word) {
    return null;
  }
  return (
    <tr className="word">
      <td colSpan={columns} role="alert">
        {word.message}{" "}
        {word.kind === "ask" && (
          <>
            <button
              type="button"
              className="plain"
              onClick={() => entries.record(place, word.value, true)}
            >
              {text.tend.confirm}
            </button>{" "}
            <button
              type="button"
              className="plain"
              onClick={() => {
                entries.forget(place);
                back();
              }}
            >
              {text.tend.again}
            </button>
          </>
        )}
      </td>
    </tr>
  );
}
