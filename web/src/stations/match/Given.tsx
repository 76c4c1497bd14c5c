import { Input, Select } from "antd";
import { Fragment, type ReactNode, useEffect, useState } from "react";
import type { Schemas } from "../../api/client";
import {
  type Application,
  amountOf,
  type Basis,
  basisOf,
  bases,
  daysOf,
  figure,
  figureOf,
  isNothing,
  type Rhythm,
  rhythmOf,
  whenOf,
  withApplication,
} from "../../marks/given";
import { text } from "../../text/en";
import { CellMark } from "./CellMark";

type Sheet = Schemas["Sheet"];
type Line = Schemas["Line"];

interface Props {
  sheet: Sheet;
  line: Line;
  /** Which of the lines of its kind it is, from 0. */
  place: number;
  /** What a unit is called. */
  unit: string;
  /** Whether rows that stand as usual are shown as well. */
  all: boolean;
  locked: boolean;
  /** Rows that are kept apart although all say the same. */
  apart: ReadonlySet<string>;
  setApart: (apart: ReadonlySet<string>) => void;
  commit: (sheet: Sheet) => void;
}

interface TakenProps {
  value: string;
  /** Takes what was typed; says what is wrong with it where it is nothing that can be taken. */
  onTaken: (text: string) => string | undefined;
  name: string;
  "aria-label": string;
  disabled: boolean;
  list?: string;
  placeholder?: string;
}

/** A field that is taken when it is left. What cannot be taken stays in it, with the reason beneath. */
function Taken({ value, onTaken, ...rest }: TakenProps) {
  const [draft, setDraft] = useState(value);
  const [wrong, setWrong] = useState("");
  useEffect(() => {
    setDraft(value);
    setWrong("");
  }, [value]);
  const take = () => setWrong(draft === value ? "" : (onTaken(draft) ?? ""));
  return (
    <>
      <Input
        variant="borderless"
        {...rest}
        value={draft}
        title={draft}
        onChange={(e) => setDraft(e.target.value)}
        onBlur={take}
        onPressEnter={take}
      />
      {wrong !== "" && (
        <small className="wrong" role="alert">
          {wrong}
        </small>
      )}
    </>
  );
}

/** Changes what treatments get in a line: of one of them or of all; where nothing is given yet, only if the change adds it. */
type Put = (
  change: (a: Application) => Application | null,
  only: number | null,
  adds?: boolean,
) => undefined;

/** A line as its rows see it. */
interface Held {
  line: Line;
  /** What its fields are called. */
  key: string;
  /** The application of each treatment; null where it gets nothing here. */
  own: (Application | null)[];
  /** One that is given; null where the line is empty. */
  first: Application | null;
  put: Put;
}

function heldIn({ sheet, line, place, commit }: Props): Held {
  const own = sheet.treatments.map((t, i): Application | null => {
    const at = line.of[i];
    return at == null ? null : (t.applications[at] ?? null);
  });
  const first = own.find((a) => a !== null) ?? null;
  const put: Put = (change, only, adds = false) => {
    const next = (t: Schemas["SheetTreatment"], i: number) => {
      const old = own[i] ?? null;
      if ((only !== null && only !== i) || (old === null && !adds)) {
        return t;
      }
      // One that gets nothing yet starts from what another gets.
      return withApplication(
        t,
        line.of[i] ?? null,
        change(old ?? first ?? { role: line.role, what: "" }),
      );
    };
    commit({ ...sheet, treatments: sheet.treatments.map(next) });
    return undefined;
  };
  return {
    line,
    key: place === 0 ? line.role : `${line.role}${place + 1}`,
    own,
    first,
    put,
  };
}

type Part = "what" | "dose" | "how" | "volume" | "when";

interface RowProps extends Props {
  held: Held;
  part: Part;
  label: ReactNode;
  spoken: string;
  /** What two treatments are compared by. */
  of: (a: Application) => unknown;
  /** The field of one treatment, or of all. */
  cell: (
    only: number | null,
    a: Application | null,
    said: string,
    named: string,
  ) => ReactNode;
}

/** One row: a field for all where all get the same, else one for each. */
function Row({
  sheet,
  held,
  part,
  label,
  spoken,
  of,
  cell,
  locked,
  apart,
  setApart,
}: RowProps) {
  const { own, first, key, put } = held;
  const id = `${key} ${part}`;
  const said = own.map((a) => (a === null ? null : JSON.stringify(of(a))));
  const equal = said.every((v) => v === said[0]) && !apart.has(id);
  const toggle = () => {
    const next = new Set(apart);
    if (equal) {
      next.add(id);
    } else {
      next.delete(id);
      const model = own[0] ?? null;
      if (part === "what") {
        put(
          (a) => (model === null ? null : { ...a, what: model.what }),
          null,
          model !== null,
        );
      } else if (first) {
        put((a) => ({ ...first, what: a.what }), null);
      }
    }
    setApart(next);
  };
  return (
    <tr className={equal ? "" : "apart"}>
      <th scope="row">{label}</th>
      {(equal ? own.slice(0, 1) : own).map((a, i) => (
        <td key={i} colSpan={equal ? own.length : 1}>
          {!equal && <CellMark treatment={i} />}
          {part !== "what" && a === null ? (
            <span className="nothing">–</span>
          ) : (
            cell(
              equal ? null : i,
              a,
              equal ? spoken : `${spoken}, ${sheet.treatments[i]?.name ?? ""}`,
              equal ? `${key}-${part}` : `${key}-${part}-${i}`,
            )
          )}
        </td>
      ))}
      <td className="act">
        {!locked && (
          <button type="button" className="plain" onClick={toggle}>
            {equal ? text.match.split : text.match.merge}
          </button>
        )}
      </td>
    </tr>
  );
}

/** What is given in one place of the sheet: what, how much, how and when, over all treatments. */
export function Given(props: Props) {
  const { line, place, unit, all, locked, apart } = props;
  const held = heldIn(props);
  const { key, own, first, put } = held;
  const given = own.filter((a) => a !== null);
  const beside = given.some((a) => (a.how ?? "stirred") !== "stirred");
  const unusual =
    beside || given.some((a) => rhythmOf(a.when) !== "each_feeding");
  const shows = (part: Part) =>
    first !== null && (all || unusual || apart.has(`${key} ${part}`));
  const row = { ...props, held };
  const { name } = line;
  return (
    <Fragment>
      <Row
        {...row}
        part="what"
        label={text.match.lineOf(line.role, place)}
        spoken={name}
        of={(a) => a.what}
        cell={(only, a, said, named) => (
          <Taken
            aria-label={said}
            name={named}
            value={a?.what ?? ""}
            placeholder={text.match.nothing}
            disabled={locked}
            list={`shelf-${line.role}s`}
            onTaken={(what) =>
              put(
                (old) =>
                  isNothing(what) ? null : { ...old, what: what.trim() },
                only,
                !isNothing(what),
              )
            }
          />
        )}
      />
      {first && <Dose {...row} first={first} beside={beside} />}
      {shows("how") && (
        <Row
          {...row}
          part="how"
          label={text.match.how}
          spoken={`${text.match.how}, ${name}`}
          of={(a) => a.how ?? "stirred"}
          cell={(only, a, said) => (
            <Select
              variant="borderless"
              aria-label={said}
              value={a?.how ?? "stirred"}
              disabled={locked}
              popupMatchSelectWidth={false}
              options={options(text.match.hows)}
              onChange={(how) => put((old) => ({ ...old, how }), only)}
            />
          )}
        />
      )}
      {beside && (
        <Row
          {...row}
          part="volume"
          label={text.match.mlAUnit(unit)}
          spoken={`${text.match.mlAUnit(unit)}, ${name}`}
          of={(a) => a.ml_a_unit ?? null}
          cell={(only, a, said, named) => (
            <Taken
              aria-label={said}
              name={named}
              value={String(a?.ml_a_unit ?? "")}
              placeholder={text.match.notSaid}
              disabled={locked}
              onTaken={(typedIn) =>
                number(
                  typedIn,
                  (value) => put((old) => ({ ...old, ml_a_unit: value }), only),
                  true,
                )
              }
            />
          )}
        />
      )}
      {shows("when") && (
        <Row
          {...row}
          part="when"
          label={text.match.when}
          spoken={`${text.match.when}, ${name}`}
          of={(a) => a.when ?? "each_feeding"}
          cell={(only, a, said, named) => (
            <Days
              application={a}
              said={said}
              named={named}
              locked={locked}
              onTaken={(when) => put((old) => ({ ...old, when }), only)}
            />
          )}
        />
      )}
    </Fragment>
  );
}

function options<K extends string>(names: Record<K, string>) {
  return Object.entries(names).map(([value, label]) => ({
    value: value as K,
    label: label as string,
  }));
}

/** Takes a number that was typed, or nothing where that may be; says what is wrong else. */
function number(
  typedIn: string,
  take: (value: number | null) => void,
  orNothing: boolean,
): string | undefined {
  const value = figure(typedIn);
  if (value === null && !(orNothing && typedIn.trim() === "")) {
    return text.match.noNumber(typedIn);
  }
  take(value);
  return undefined;
}

/** How much: the figure of each treatment and what it counts, for all of them or, beside the tank, for each. */
function Dose({
  first,
  beside,
  ...row
}: Props & { held: Held; first: Application; beside: boolean }) {
  const { locked, unit, line } = row;
  const { put, own } = row.held;
  const common = own.every(
    (a) => a === null || basisOf(a.amount) === basisOf(first.amount),
  )
    ? basisOf(first.amount)
    : null;
  const said = (b: Basis) => text.match.basesOf[b](unit);
  const choices = bases
    .filter((b) => beside || (b !== "undiluted" && b !== "per_site"))
    .map((b) => ({ value: b, label: said(b) }));
  const choose = (of: string, value: Basis | null, only: number | null) => (
    <Select
      variant="borderless"
      size="small"
      aria-label={text.match.counts(of)}
      value={value}
      placeholder={text.match.basesDiffer}
      popupMatchSelectWidth={false}
      onChange={(next) =>
        put(
          (a) => ({
            ...a,
            amount: amountOf(next ?? "of_label", figureOf(a.amount) ?? 1),
          }),
          only,
        )
      }
      options={choices}
    />
  );
  const label = (
    <>
      {text.match.dose}{" "}
      {locked ? (
        <span className="basis">
          {common ? said(common) : text.match.basesDiffer}
        </span>
      ) : (
        choose(line.name, common, null)
      )}
    </>
  );
  return (
    <Row
      {...row}
      part="dose"
      label={label}
      spoken={text.match.doseOf(line.role, line.name)}
      of={(a) => a.amount ?? { of_label: 1 }}
      cell={(only, a, spoken, named) => {
        const basis = basisOf(a?.amount);
        // Undiluted against a share of the label's dose: what counts is said of each.
        const each = only !== null && beside && !locked;
        return (
          <span className="dose">
            {basis === "undiluted" ? (
              !each && <span className="nothing">{said(basis)}</span>
            ) : (
              <Taken
                aria-label={spoken}
                name={named}
                value={String(figureOf(a?.amount) ?? "")}
                disabled={locked}
                onTaken={(typedIn) =>
                  number(
                    typedIn,
                    (value) =>
                      put(
                        (old) => ({
                          ...old,
                          amount: amountOf(basis, value ?? 0),
                        }),
                        only,
                      ),
                    false,
                  )
                }
              />
            )}
            {each
              ? choose(spoken, basis, only)
              : common === null &&
                basis !== "undiluted" && (
                  <span className="basis">{said(basis)}</span>
                )}
          </span>
        );
      }}
    />
  );
}

/** When something is given: a rhythm, and the days it needs. */
function Days({
  application,
  said,
  named,
  locked,
  onTaken,
}: {
  application: Application | null;
  said: string;
  named: string;
  locked: boolean;
  onTaken: (when: Schemas["When"]) => void;
}) {
  const saved = rhythmOf(application?.when);
  const [rhythm, setRhythm] = useState<Rhythm>(saved);
  useEffect(() => setRhythm(saved), [saved]);
  const choose = (next: Rhythm) => {
    setRhythm(next);
    const when = whenOf(next, "");
    if (when) {
      onTaken(when);
    }
  };
  return (
    <span className="when">
      <Select
        variant="borderless"
        aria-label={said}
        value={rhythm}
        disabled={locked}
        popupMatchSelectWidth={false}
        onChange={choose}
        options={Object.entries(text.match.rhythms).map(([value, label]) => ({
          value: value as Rhythm,
          label,
        }))}
      />
      {(rhythm === "days" || rhythm === "every") && (
        <Taken
          aria-label={`${said}, ${text.match.whichDays}`}
          name={named}
          value={rhythm === saved ? daysOf(application?.when) : ""}
          disabled={locked}
          placeholder={rhythm === "days" ? "4, 8" : text.match.everyFrom}
          onTaken={(days) => {
            const when = whenOf(rhythm, days);
            if (when === null) {
              return text.match.noDays(days);
            }
            onTaken(when);
            return undefined;
          }}
        />
      )}
    </span>
  );
}
