import { Button, Checkbox } from "antd";
import { type FormEvent, useEffect, useRef } from "react";
import { closed } from "../../frame/Trouble";
import { mass } from "../../marks/mass";
import { useChoice } from "../../marks/useChoice";
import { inWords } from "../../marks/words";
import { text } from "../../text/en";
import { OnTheScale } from "./OnTheScale";
import { after, keyOf, partOf } from "./parts";
import { Tare } from "./Tare";
import { useWeighing, type NowProps, type Weighing } from "./useWeighing";
import { Wave } from "./Wave";
import { WriteOff } from "./WriteOff";

const YES_NO = ["no", "yes"] as const;

/** Takes what stands still without a key, where that is wanted; what is asked about waits for an answer. */
function useByItself({ row, scale }: NowProps, weighing: Weighing) {
  const [wanted, want] = useChoice("weigh-by-itself", YES_NO, "no");
  const due =
    wanted === "yes" &&
    weighing.live &&
    weighing.known &&
    !weighing.busy &&
    !weighing.problem &&
    typeof row.net_g !== "number" &&
    scale.showing?.pan === "settled";
  const take = useRef(weighing.take);
  useEffect(() => {
    take.current = weighing.take;
  });
  useEffect(() => {
    if (due) {
      void take.current();
    }
  }, [due]);
  return {
    wanted: wanted === "yes",
    want: (on: boolean) => want(on ? "yes" : "no"),
  };
}

/** One key takes it, wherever the last one was pressed: where nothing has the focus that Enter would press itself. */
function useOneKey(weighing: Weighing) {
  const take = useRef(weighing.take);
  useEffect(() => {
    take.current = weighing.take;
  });
  const { live, ready } = weighing;
  useEffect(() => {
    const press = (event: KeyboardEvent) => {
      const nowhere =
        document.activeElement === null ||
        document.activeElement === document.body;
      if (event.key === "Enter" && !event.repeat && nowhere && ready) {
        event.preventDefault();
        void take.current();
      }
    };
    if (!live) {
      return undefined;
    }
    document.addEventListener("keydown", press);
    return () => document.removeEventListener("keydown", press);
  }, [live, ready]);
}

/** What is on the scale. Enter takes it. */
export function Now(props: NowProps) {
  const { trial, view, row, unit, scale } = props;
  const weighing = useWeighing(props);
  const byItself = useByItself(props, weighing);
  useOneKey(weighing);
  const { live, problem } = weighing;
  const form = useRef<HTMLFormElement>(null);
  useEffect(() => {
    if (!live) {
      form.current?.querySelector<HTMLElement>("input[name='gross']")?.focus();
    }
  }, [live, problem]);
  const submit = (event: FormEvent) => {
    event.preventDefault();
    void weighing.take();
  };
  return (
    <form ref={form} className="now" onSubmit={submit}>
      <div
        className="codebig"
        data-key={keyOf(row)}
        aria-label={inWords(trial, text.tend.tray)}
      >
        {row.code}
        {partOf(row) && <small>{partOf(row)}</small>}
      </div>
      <OnTheScale
        code={row.code}
        waves={view.waves !== null && view.waves !== undefined}
        place={row.place}
        unit={unit}
        scale={scale}
        weighing={weighing}
      >
        <Checkbox
          checked={byItself.wanted}
          onChange={(e) => byItself.want(e.target.checked)}
        >
          {text.weigh.byItself}
        </Checkbox>
      </OnTheScale>
      <Net {...props} weighing={weighing} />
      {problem && (
        <p className="trouble" role="alert">
          <b>{closed(problem.title)}</b> {problem.detail}
        </p>
      )}
      {!view.ripe && !view.waves && (
        <p className="trouble soft">{text.weigh.unripe(trial.ask.end_day)}</p>
      )}
    </form>
  );
}

/** The container, what was cut, and what can be done with it. */
function Net({
  trial,
  view,
  row,
  unit,
  onTaken,
  onChoose,
  weighing,
}: NowProps & { weighing: Weighing }) {
  const { known, grossG, tareG, busy, ready, problem } = weighing;
  const next = typeof row.sample === "number" ? after(view, row) : undefined;
  const net = known ? (grossG ?? 0) - (tareG ?? 0) : null;
  const stands = typeof row.net_g === "number" ? row.net_g : null;
  return (
    <div className="net">
      <Tare trial={trial} view={view} unit={unit} weighing={weighing} />
      {view.waves && (
        <Wave
          row={row}
          waves={view.waves}
          unit={unit}
          weighing={weighing}
          onNext={() => onTaken("")}
        />
      )}
      <p>
        {view.waves ? text.waves.net : text.weigh.net}{" "}
        <b data-testid="net">
          {net === null || net < 0 ? "–" : mass(net, unit)}
        </b>
      </p>
      {!view.waves &&
        typeof view.least_g === "number" &&
        typeof view.most_g === "number" && (
          <p className="soft">
            {text.weigh.range(
              mass(view.least_g, unit),
              mass(view.most_g, unit),
            )}
          </p>
        )}
      <Button
        htmlType="submit"
        type="primary"
        loading={busy}
        disabled={!ready}
        size="large"
      >
        {problem?.code === "unlikely"
          ? text.tend.confirm
          : stands === null
            ? text.weigh.take
            : text.weigh.replace(mass(stands, unit), row.code)}
      </Button>
      {next && (
        <button
          type="button"
          className="plain"
          onClick={() => onChoose(keyOf(next))}
        >
          {text.weigh.gone}
        </button>
      )}
      <WriteOff trial={trial} row={row} />
    </div>
  );
}
