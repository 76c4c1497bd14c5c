import { useQuery } from "@tanstack/react-query";
import { Button, Input } from "antd";
import { useState } from "react";
import { Link } from "react-router";
import { answered, client, type Schemas } from "../api/client";
import { Head } from "../frame/Head";
import { Guessers } from "../frame/Guessers";
import { Trouble } from "../frame/Trouble";
import {
  todayQuery,
  trialsQuery,
  useNewTrial,
  usePutAway,
} from "../queries/trial";
import { text } from "../text/en";
import { Stakes } from "./Today";
import "./home.css";

export function Trials() {
  const today = useQuery(todayQuery);
  const [name, setName] = useState("");
  const create = useNewTrial((name: string) =>
    answered(client.POST("/api/v1/trials", { body: { name } })),
  );
  const bring = useNewTrial((plan: unknown) =>
    answered(client.POST("/api/v1/trials/from-plan", { body: plan })),
  );
  const [notJson, setNotJson] = useState(false);
  const read = (content: string) => {
    setNotJson(false);
    try {
      bring.mutate(JSON.parse(content) as unknown);
    } catch {
      setNotJson(true);
    }
  };
  return (
    <>
      <Head title={text.trials.title} />
      <main className="sheet alone">
        <form
          className="newtrial"
          onSubmit={(event) => {
            event.preventDefault();
            create.mutate(name);
          }}
        >
          <label className="field">
            <span>{text.trials.name}</span>
            <Input
              value={name}
              onChange={(e) => setName(e.target.value)}
              placeholder={text.trials.placeholder}
              name="name"
            />
          </label>
          <Button htmlType="submit" type="primary" loading={create.isPending}>
            {text.trials.create}
          </Button>
        </form>
        <label className="plain file">
          {text.trials.bring}
          <input
            type="file"
            accept=".json,application/json"
            name="plan"
            onChange={(e) => {
              const file = e.target.files?.[0];
              e.target.value = "";
              void file?.text().then(read);
            }}
          />
        </label>
        {notJson && (
          <p className="trouble" role="alert">
            {text.trials.notJson}
          </p>
        )}
        <Trouble error={create.error ?? bring.error ?? today.error} />
        <Shelf stakes={today.data?.stakes ?? []} />
      </main>
    </>
  );
}

/** All trials, those at work as stakes, those put away as names below. */
function Shelf({ stakes }: { stakes: Schemas["Stake"][] }) {
  const trials = useQuery(trialsQuery);
  const move = usePutAway();
  const away = (trials.data ?? []).filter((t) => t.put_away);
  return (
    <>
      {stakes.length > 0 && (
        <Stakes
          stakes={stakes}
          under={(stake) => (
            <button
              type="button"
              className="plain"
              aria-label={text.trials.putAway(stake.name)}
              disabled={move.isPending}
              onClick={() => move.mutate({ id: stake.id, away: true })}
            >
              {text.trials.putAwayShort}
            </button>
          )}
        />
      )}
      <Trouble error={move.error ?? trials.error} />
      <Guessers />
      {away.length > 0 && (
        <section className="away">
          <h2>{text.trials.away}</h2>
          <p className="soft">{text.trials.awayText}</p>
          <ul>
            {away.map((trial) => (
              <li key={trial.id}>
                <Link to={`/trials/${trial.id}`}>{trial.name}</Link>
                <button
                  type="button"
                  className="plain"
                  aria-label={text.trials.bringBack(trial.name)}
                  disabled={move.isPending}
                  onClick={() => move.mutate({ id: trial.id, away: false })}
                >
                  {text.trials.bringBackShort}
                </button>
              </li>
            ))}
          </ul>
        </section>
      )}
    </>
  );
}
