import { useQuery } from "@tanstack/react-query";
import { Button, Checkbox, Input } from "antd";
import { useState } from "react";
import { Link } from "react-router";
import type { Schemas, TrialView } from "../../../api/client";
import { Trouble } from "../../../frame/Trouble";
import { useTrial } from "../../../frame/TrialFrame";
import { inWords } from "../../../marks/words";
import { lineUpsQuery } from "../../../queries/line-up";
import { photosQuery, pictureOf, useEntry } from "../../../queries/trial";
import { text } from "../../../text/en";
import { Ordered } from "./Ordered";
import { placedLast, type Order } from "./order";
import { Said } from "./Said";
import "./line-up.css";

/** Units put in order from best to worst by code, each judge by themselves. */
export default function LineUp() {
  const trial = useTrial();
  const words = text.lineUp;
  const found = useQuery(lineUpsQuery(trial.id));
  const [again, setAgain] = useState(false);
  const [kept, setKept] = useState<"sent" | "kept" | null>(null);
  // Held here: the form is gone as soon as the new list has come, and with it what it waited for.
  const write = useEntry(trial.id);
  const view = found.data;
  const mine = view && view.line_ups.length > 0 && !again;
  return (
    <div className="line-ups">
      <p className="links">
        <Link to={`/trials/${trial.id}/tend`}>{text.tracks.back}</Link>
      </p>
      <h2>{words.title}</h2>
      <p className="soft">{inWords(trial, words.why)}</p>
      <Trouble error={found.error} />
      {view && (
        <>
          <p>{words.judges(view.judges)}</p>
          {!view.judged_by && <p className="soft">{words.notJudged}</p>}
          {kept && (
            <p className="kept-order" role="status">
              {kept === "kept" ? words.unsent : words.kept}
            </p>
          )}
          {trial.reveal === null && !mine && kept !== "kept" && (
            <Making
              trial={trial}
              view={view}
              write={write}
              done={(how) => {
                setKept(how);
                setAgain(false);
              }}
            />
          )}
          {mine && <Said trial={trial} view={view} />}
          {mine && trial.reveal === null && (
            <Button
              onClick={() => {
                setKept(null);
                setAgain(true);
              }}
            >
              {words.again}
            </Button>
          )}
        </>
      )}
    </div>
  );
}

interface MakingProps {
  trial: TrialView;
  view: Schemas["LineUpsView"];
  write: ReturnType<typeof useEntry>;
  done: (how: "sent" | "kept") => void;
}

/** The order as it is made: a pool to tap from, and the order itself. */
function Making({ trial, view, write, done }: MakingProps) {
  const words = text.lineUp;
  const [judge, setJudge] = useState("");
  const [order, setOrder] = useState<Order>([]);
  const [tied, setTied] = useState(false);
  const [pictures, setPictures] = useState(false);
  const pictureFor = usePictures(trial.id);
  const placed = new Set(order.flat());
  const pool = view.codes.filter((code) => !placed.has(code));
  const shown = (code: string) => (pictures ? pictureFor.get(code) : undefined);
  const save = () => {
    const body = { places: order, judge: judge.trim() };
    write.mutate(
      { trial: trial.id, records: [{ kind: "line_up", body }] },
      { onSuccess: (answer) => done(answer === "kept" ? "kept" : "sent") },
    );
  };
  return (
    <div className="making">
      <div className="row">
        <label className="field">
          <span>{words.judge}</span>
          <Input
            name="judge"
            value={judge}
            placeholder={words.me}
            onChange={(e) => setJudge(e.target.value)}
          />
        </label>
        {pictureFor.size > 0 && (
          <Checkbox
            checked={pictures}
            onChange={(e) => setPictures(e.target.checked)}
          >
            {words.pictures}
          </Checkbox>
        )}
      </div>
      <Pool
        pool={pool}
        order={order}
        setOrder={setOrder}
        tied={tied}
        setTied={setTied}
        picture={shown}
      />
      <Ordered
        order={order}
        setOrder={setOrder}
        picture={shown}
        whole={pool.length === 0}
      />
      <Trouble error={write.error} />
      <Button
        type="primary"
        disabled={pool.length > 0}
        loading={write.isPending}
        onClick={save}
      >
        {words.save}
      </Button>
    </div>
  );
}

/** The last picture from above of each unit. */
function usePictures(trial: string): Map<string, string> {
  const photos = useQuery(photosQuery(trial));
  const top = (photos.data?.photos ?? []).filter((p) => p.view === "top");
  return new Map(top.map((p) => [p.code, pictureOf(trial, p.id, "small")]));
}

interface PoolProps {
  pool: string[];
  order: Order;
  setOrder: (order: Order) => void;
  tied: boolean;
  setTied: (tied: boolean) => void;
  picture: (code: string) => string | undefined;
}

/** What does not stand in the order yet; a tap puts it behind the others. */
function Pool({ pool, order, setOrder, tied, setTied, picture }: PoolProps) {
  const words = text.lineUp;
  if (pool.length === 0) {
    return <p className="soft">{words.poolEmpty}</p>;
  }
  return (
    <section className="pool" aria-label={words.pool}>
      <h3>{words.pool}</h3>
      <div className="cards">
        {pool.map((code) => (
          <button
            key={code}
            type="button"
            className="code-card"
            onClick={() => setOrder(placedLast(order, code, tied))}
          >
            {picture(code) && <img src={picture(code)} alt="" />}
            <b>{code}</b>
          </button>
        ))}
      </div>
      {order.length > 0 && (
        <p className="pool-ways">
          <Checkbox checked={tied} onChange={(e) => setTied(e.target.checked)}>
            {words.tied}
          </Checkbox>
          <button
            type="button"
            className="plain"
            onClick={() => setOrder([...order, pool])}
          >
            {words.rest(pool.length)}
          </button>
        </p>
      )}
    </section>
  );
}
