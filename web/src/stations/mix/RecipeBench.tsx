import { useQuery } from "@tanstack/react-query";
import { Button, Input, Select } from "antd";
import { useEffect, useState } from "react";
import { ProblemError, type Schemas, type TrialView } from "../../api/client";
import { Trouble } from "../../frame/Trouble";
import { shown, typed } from "../../marks/number";
import { benchQuery, useAim, useBenchLines } from "../../queries/bench";
import { storesQuery, usePutItem } from "../../queries/stores";
import { usePlan } from "../../queries/trial";
import { ItemForm } from "../../stores/ItemForm";
import { newKey } from "../../api/records";
import { fedWith, feedsOf } from "../../marks/given";
import { text } from "../../text/en";
import "./bench.css";
import { Concentrates } from "./Concentrates";
import { Holding } from "./Holding";
import { useDraft, type DraftLine } from "./draft";
import { colours, elementColours } from "../../theme";

type Shelves = Schemas["ShelfView"][];

/** Parts of a recipe stand on these shelves. */
const SHELVES = ["feeds", "additives", "salts"] as const;

interface Props {
  trial: TrialView;
  volume: number;
  /** Target profile that fits the crop. */
  target: string;
}

type Bench = ReturnType<typeof useBench>;

/** The bench as it is typed: what the server makes of it, and what can be done with it. */
function useBench({ trial, volume, target }: Props) {
  const stores = useQuery(storesQuery);
  const shelves = stores.data ?? [];
  const { draft, set, line, replaceLines } = useDraft(
    trial,
    shelves,
    volume,
    target,
  );
  const body = draft && sentOf(draft);
  const [settled, setSettled] = useState(body);
  const asText = JSON.stringify(body);
  useEffect(() => {
    // Shorter than a keystroke: the bench moves while it is typed.
    const timer = window.setTimeout(
      () => setSettled(JSON.parse(asText) as Schemas["BenchSent"] | null),
      15,
    );
    return () => window.clearTimeout(timer);
  }, [asText]);
  const bench = useQuery({
    ...benchQuery(settled ?? EMPTY),
    enabled: settled !== null,
  });
  const [last, setLast] = useState(bench.data);
  useEffect(() => {
    if (bench.data && !bench.isPlaceholderData) {
      setLast(bench.data);
    }
  }, [bench.data, bench.isPlaceholderData]);
  const aim = useAim();
  const start = useBenchLines();
  // While a field is wrong, the picture stays as it was before.
  const view = draft?.lines.length === 0 ? undefined : (bench.data ?? last);
  const field =
    bench.error instanceof ProblemError ? bench.error.problem.field : null;
  const names = (key: string) =>
    (shelves.find((s) => s.key === key)?.items ?? []).map((i) => ({
      value: i.name,
      label: i.name,
    }));
  return {
    trial,
    shelves,
    draft,
    set,
    line,
    replaceLines,
    body,
    bench,
    aim,
    start,
    view,
    field,
    names,
  };
}

/** The bench: ingredients as columns that fill a tank, while the doses are typed. */
export function RecipeBench(props: Props) {
  const own = useBench(props);
  const { shelves, draft, set, line, bench, view, field } = own;
  if (!draft) {
    return null;
  }
  // A bottle must not carry the name of a recipe that its doses are no longer of.
  const kept = shelves
    .find((s) => s.key === "recipes")
    ?.items.find((i) => i.name === draft.name)?.held?.["lines"];
  const labelled =
    draft.name !== "" && kept !== view?.lines_text
      ? text.bench.changed(draft.name)
      : draft.name;
  const tallest = Math.max(
    ...(view?.columns ?? []).map((c) => sumOf(c.brings_mg_per_l)),
    1,
  );
  return (
    <div className="bench">
      <BenchHead own={own} draft={draft} />
      <div className="bench-top">
        <div>
          <ol className="columns" aria-label={text.bench.columns}>
            {draft.lines.map((l, i) => (
              <Column
                key={l.key}
                line={l}
                tallest={tallest}
                column={
                  view?.columns[i]?.name === l.name
                    ? view.columns[i]
                    : undefined
                }
                wrong={wrong(l.per_l) || field === `lines[${i}]`}
                change={(per_l) => line(i, { per_l })}
                remove={() => line(i, null)}
              />
            ))}
          </ol>
          <Adding own={own} draft={draft} />
          {view?.warnings.map((w) => (
            <p key={w.code + w.message} className={`mix-warning ${w.severity}`}>
              {w.message}
            </p>
          ))}
          {view && !bench.error && (
            <Keep
              key={draft.name}
              trial={own.trial}
              shelves={shelves}
              name={draft.name}
              lines={view.lines_text}
              onKept={(name) => set({ name })}
            />
          )}
        </div>
        {view ? (
          <Holding view={view} temperature={typed(draft.temperature) ?? 25} />
        ) : (
          <p className="soft empty">
            {draft.lines.length === 0 ? text.bench.empty : ""}
          </p>
        )}
      </div>
      {view && (
        <Concentrates
          times={draft.times}
          setTimes={(times) => set({ times })}
          stock={view.stock ?? null}
          name={labelled}
          wrong={field === "stock_times"}
        />
      )}
      <p className="caution">{text.bench.caution}</p>
    </div>
  );
}

interface PartProps {
  own: Bench;
  draft: NonNullable<Bench["draft"]>;
}

/** Where it starts from, its water and target, how much and how warm. */
function BenchHead({ own, draft }: PartProps) {
  const { set, start, replaceLines, field, names } = own;
  const number = (key: "volume" | "temperature", of: string, label: string) => (
    <label className="field short">
      <span>{label}</span>
      <Input
        name={`bench-${key}`}
        inputMode="decimal"
        value={draft[key]}
        status={wrong(draft[key]) || field === of ? "error" : ""}
        onChange={(e) => set({ [key]: e.target.value })}
      />
    </label>
  );
  return (
    <div className="bench-head">
      <label className="field start">
        <span>{text.bench.start}</span>
        <Select
          id="bench-start"
          showSearch
          value={null}
          placeholder={text.bench.startHint}
          options={[
            { label: text.bench.recipes, options: names("recipes") },
            { label: text.bench.feeds, options: names("feeds") },
          ]}
          onChange={(name: string | null) =>
            name &&
            start.mutate(name, {
              onSuccess: (lines) => replaceLines(lines.map(drafted), name),
            })
          }
        />
      </label>
      <label className="field">
        <span>{text.bench.water}</span>
        <Select
          id="bench-water"
          value={draft.water}
          onChange={(water) => set({ water })}
          options={[{ value: "", label: text.bench.pure }, ...names("waters")]}
        />
      </label>
      <label className="field">
        <span>{text.bench.target}</span>
        <Select
          id="bench-target"
          value={draft.target}
          onChange={(t) => set({ target: t })}
          options={[
            { value: "", label: text.bench.noTarget },
            ...names("targets"),
          ]}
        />
      </label>
      {number("volume", "volume_l", text.bench.volume)}
      {number("temperature", "temperature_c", text.bench.temperature)}
    </div>
  );
}

/** Putting something on the bench, aiming at the target, and going back. */
function Adding({ own, draft }: PartProps) {
  const { shelves, replaceLines, body, bench, aim, start, names } = own;
  const [labelling, setLabelling] = useState(false);
  const putOn = (name: string) =>
    start.mutate(name, {
      onSuccess: (lines) =>
        replaceLines([...draft.lines, ...lines.map(drafted)], draft.name),
    });
  // What was missed is told while these doses, target and water stand.
  const found =
    aim.data &&
    aim.variables.target === draft.target &&
    aim.variables.water === draft.water &&
    aim.data.lines.length === draft.lines.length &&
    aim.data.lines.every(
      (l, i) =>
        draft.lines[i]?.name === l.name &&
        draft.lines[i].per_l === String(l.per_l),
    )
      ? aim.data
      : null;
  const feeds = shelves.find((s) => s.key === "feeds");
  return (
    <>
      <div className="adding">
        <label className="field">
          <span>{text.bench.add}</span>
          <Select
            id="bench-add"
            showSearch
            value={null}
            placeholder={text.bench.addHint}
            popupMatchSelectWidth={300}
            options={SHELVES.map((key) => ({
              label: shelves.find((s) => s.key === key)?.name ?? key,
              options: names(key),
            }))}
            onChange={(name: string | null) => name && putOn(name)}
          />
        </label>
        <button
          type="button"
          className="plain"
          onClick={() => setLabelling(!labelling)}
        >
          {text.bench.label}
        </button>
        {draft.lines.length > 0 && draft.target !== "" && (
          <Button
            loading={aim.isPending}
            title={text.bench.aimWhy}
            onClick={() =>
              body &&
              aim.mutate(body, {
                onSuccess: (found) =>
                  replaceLines(found.lines.map(aimed(draft.lines)), draft.name),
              })
            }
          >
            {text.bench.aim(draft.target)}
          </Button>
        )}
        {draft.before.length > 0 && (
          <button
            type="button"
            className="plain"
            onClick={() => replaceLines(draft.before, draft.name)}
          >
            {text.bench.back}
          </button>
        )}
      </div>
      {labelling && feeds && (
        <ItemForm
          shelf={feeds}
          item={null}
          onClose={() => setLabelling(false)}
          onKept={putOn}
        />
      )}
      <Trouble error={bench.error ?? aim.error ?? start.error} />
      {found && <Missed aim={found.aim} />}
    </>
  );
}

const EMPTY: Schemas["BenchSent"] = { lines: [], volume_l: 1 };
const wrong = (value: string) => Number.isNaN(typed(value) ?? Number.NaN);
const sumOf = (brings: Record<string, number>) =>
  MACROS.reduce((sum, e) => sum + (brings[e] ?? 0), 0);

/** What a column shows, from the bottom up, each in a shade of its own with its letters on it. */
const MACROS = ["N", "P", "K", "Ca", "Mg", "S"] as const;
const TRACES = ["Fe", "Mn", "Zn", "B", "Cu", "Mo"] as const;

/** The draft as the server reads it; null while a number cannot be read, so that the bench keeps what it showed. */
function sentOf(draft: {
  lines: DraftLine[];
  water: string;
  target: string;
  volume: string;
  temperature: string;
  times: string;
}): Schemas["BenchSent"] | null {
  const [volume, temperature] = [typed(draft.volume), typed(draft.temperature)];
  const lines = draft.lines.map((l) => ({
    name: l.name,
    form: l.form,
    per_l: typed(l.per_l) ?? Number.NaN,
  }));
  if (
    volume === null ||
    temperature === null ||
    [volume, temperature, ...lines.map((l) => l.per_l)].some(Number.isNaN)
  ) {
    return null;
  }
  const times = typed(draft.times);
  return {
    lines,
    water: draft.water,
    target: draft.target,
    volume_l: volume,
    temperature_c: temperature,
    stock_times: times === null || Number.isNaN(times) ? null : times,
  };
}

const drafted = (line: Schemas["BenchLine"]): DraftLine => ({
  key: newKey(),
  name: line.name,
  form: line.form,
  per_l: String(line.per_l),
});

const aimed =
  (before: DraftLine[]) =>
  (line: Schemas["BenchLine"], i: number): DraftLine => ({
    key: before[i]?.key ?? line.name,
    name: line.name,
    form: line.form,
    per_l: String(line.per_l),
  });

interface ColumnProps {
  line: DraftLine;
  tallest: number;
  column: Schemas["BenchColumn"] | undefined;
  wrong: boolean;
  change: (per_l: string) => void;
  remove: () => void;
}

/** One ingredient: what of it goes in, and the elements it pours into the tank. */
function Column({ line, tallest, column, wrong, change, remove }: ColumnProps) {
  const unit = line.form === "liquid" ? "mL" : "g";
  const step = (direction: number) => {
    const now = typed(line.per_l);
    if (now !== null && !Number.isNaN(now)) {
      // A step is a twentieth, in the digits that are weighed.
      const next = Math.max(0, now === 0 ? 0.1 : now * (1 + 0.05 * direction));
      change(String(Number(next.toPrecision(3))));
    }
  };
  return (
    <li className="ingredient">
      <b title={line.name}>{line.name}</b>
      <small>{column?.formula ?? " "}</small>
      <Pours name={line.name} column={column} tallest={tallest} />
      <label>
        <span className="sr">{text.bench.doseOf(line.name)}</span>
        <Input
          name={`bench-dose-${line.name}`}
          value={line.per_l}
          inputMode="decimal"
          suffix={`${unit}/L`}
          status={wrong ? "error" : ""}
          onChange={(e) => change(e.target.value)}
          onKeyDown={(e) => {
            if (e.key === "ArrowUp" || e.key === "ArrowDown") {
              e.preventDefault();
              step(e.key === "ArrowUp" ? 1 : -1);
            }
          }}
        />
      </label>
      <span className="total">
        {column
          ? `${shown(column.total, column.total < 0.1 ? 3 : column.total < 10 ? 2 : 1)} ${unit}`
          : "–"}
      </span>
      <small>{column ? spoons(column.measures, column.own_spoons) : " "}</small>
      <button
        type="button"
        className="plain"
        onClick={remove}
        aria-label={text.bench.removeOf(line.name)}
      >
        {text.bench.remove}
      </button>
    </li>
  );
}

/** The elements that an ingredient pours into the tank, one above the other. */
function Pours({
  name,
  column,
  tallest,
}: {
  name: string;
  column: Schemas["BenchColumn"] | undefined;
  tallest: number;
}) {
  const height = 132;
  let from = height;
  return (
    <svg
      viewBox={`0 0 96 ${height}`}
      role="img"
      aria-label={text.bench.brings(
        name,
        MACROS.filter((e) => (column?.brings_mg_per_l[e] ?? 0) >= 0.5)
          .map((e) => `${e} ${shown(column?.brings_mg_per_l[e], 0)}`)
          .join(", "),
      )}
    >
      {MACROS.map((element) => {
        const mg = column?.brings_mg_per_l[element] ?? 0;
        const tall = (height * mg) / tallest;
        from -= tall;
        return (
          tall > 0.3 && (
            <g key={element}>
              <rect
                x="0"
                y={from}
                width="96"
                height={tall}
                fill={elementColours[element]}
                stroke={colours.sheet}
                strokeWidth={tall > 3 ? 1 : 0}
              />
              {tall > 13 && (
                <text
                  x="48"
                  y={from + tall / 2 + 4.5}
                  textAnchor="middle"
                  className="in-column"
                >
                  {element} {shown(mg, mg < 10 ? 1 : 0)}
                </text>
              )}
            </g>
          )
        );
      })}
      {column && sumOf(column.brings_mg_per_l) < 1 && (
        <text x="48" y={height - 10} textAnchor="middle" className="traces">
          {TRACES.filter((e) => (column.brings_mg_per_l[e] ?? 0) > 0)
            .map((e) => `${e} ${shown(column.brings_mg_per_l[e], 2)}`)
            .join(", ")}
        </text>
      )}
      <line
        x1="0"
        x2="96"
        y1={height}
        y2={height}
        stroke={colours.iron}
        strokeWidth="2"
      />
    </svg>
  );
}

/** The measure that is easiest at hand: the grower's own spoon, where it was weighed. */
export function spoons(
  m: Schemas["Measures"] | null | undefined,
  own: number | null | undefined,
): string {
  if (typeof own === "number" && own >= 0.5) {
    return text.bench.ownSpoons(shown(own, 1));
  }
  if (!m) {
    return " ";
  }
  if (typeof m.drops === "number") {
    return text.bench.drops(shown(m.drops, 0));
  }
  return m.tablespoons >= 2
    ? text.bench.tablespoons(shown(m.tablespoons, 1))
    : text.bench.teaspoonsIn(shown(m.teaspoons, 1));
}

/** What the aim could not reach, and why. */
function Missed({ aim }: { aim: Schemas["Aim"] }) {
  const missed = aim.reached.filter((r) => r.why_missed);
  if (missed.length === 0) {
    return <p className="aim-said">{text.bench.reached}</p>;
  }
  return (
    <ul className="aim-said">
      {missed.map((r) => (
        <li key={r.element}>
          <b>{r.element}</b>{" "}
          {text.bench.missed(
            shown(r.reached_mg_per_l, r.wanted_mg_per_l < 10 ? 2 : 0),
            shown(r.wanted_mg_per_l, r.wanted_mg_per_l < 10 ? 2 : 0),
          )}{" "}
          {r.why_missed}
        </li>
      ))}
    </ul>
  );
}

/** Keeps the recipe in Stores, and feeds the trial with it. */
function Keep({
  trial,
  shelves,
  name: start,
  lines,
  onKept,
}: {
  trial: TrialView;
  shelves: Shelves;
  name: string;
  lines: string;
  onKept: (name: string) => void;
}) {
  const put = usePutItem();
  const plan = usePlan(trial.id);
  const [name, setName] = useState(start);
  /** The sheet as it was before the trial was fed with this recipe. */
  const [before, setBefore] = useState<Schemas["Sheet"] | null>(null);
  const known = shelves
    .find((s) => s.key === "recipes")
    ?.items.find((i) => i.name === name.trim());
  const same = known?.held?.["lines"] === lines;
  const fed = trial.sheet.treatments.filter((t) => feedsOf(t).length > 0);
  const given =
    fed.length > 0 &&
    fed.every((t) => feedsOf(t).every((feed) => feed === name.trim()));
  const keep = () =>
    put.mutate(
      {
        id: known?.id ?? null,
        version: known?.version ?? 0,
        item: {
          shelf: "recipes",
          name: name.trim(),
          source: known?.source ?? "",
          held: { lines },
        },
      },
      { onSuccess: () => onKept(name.trim()) },
    );
  const give = () =>
    plan.mutate(
      {
        part: "sheet",
        sheet: {
          ...trial.sheet,
          treatments: trial.sheet.treatments.map((t) =>
            fedWith(t, name.trim()),
          ),
        },
      },
      { onSuccess: () => setBefore(trial.sheet) },
    );
  return (
    <div className="keep">
      <label className="field">
        <span>{text.bench.name}</span>
        <Input
          name="recipe-name"
          value={name}
          onChange={(e) => setName(e.target.value)}
          onPressEnter={keep}
        />
      </label>
      <Button
        type={same ? "default" : "primary"}
        disabled={name.trim() === "" || same}
        loading={put.isPending}
        onClick={keep}
      >
        {same
          ? text.bench.kept
          : known
            ? text.bench.keepAgain
            : text.bench.keep}
      </Button>
      {same && trial.sealed_at === null && fed.length > 0 && (
        <Button
          type={given ? "default" : "primary"}
          disabled={given}
          loading={plan.isPending}
          onClick={give}
        >
          {given
            ? text.bench.given
            : text.bench.give(fed.map((t) => t.name).join(", "))}
        </Button>
      )}
      {given && before && trial.sealed_at === null && (
        <button
          type="button"
          className="plain"
          onClick={() =>
            plan.mutate(
              { part: "sheet", sheet: before },
              { onSuccess: () => setBefore(null) },
            )
          }
        >
          {text.bench.takeBack(before.treatments.flatMap(feedsOf)[0] ?? "")}
        </button>
      )}
      {same && trial.sealed_at !== null && !given && (
        <span className="soft">{text.bench.sealed}</span>
      )}
      <Trouble error={put.error ?? plan.error} />
    </div>
  );
}
