import { useQuery } from "@tanstack/react-query";
import { Input } from "antd";
import { useState } from "react";
import type { Schemas, TrialView } from "../../api/client";
import { Trouble } from "../../frame/Trouble";
import { catalogueQuery, useSiteCard } from "../../queries/trial";
import { text } from "../../text/en";

type Line = keyof typeof text.place.card;

const LINES = Object.keys(text.place.card) as Line[];

/** What each site outdoors is like: what a verdict over sites must be read with. */
export function SiteCards({ trial }: { trial: TrialView }) {
  const write = useSiteCard(trial.id);
  return (
    <section className="site-cards">
      <h2>{text.place.cards}</h2>
      <p className="soft">{text.place.cardsWhy}</p>
      <div className="cards">
        {trial.level_names.map((name, i) => (
          <Card
            key={i}
            level={i + 1}
            name={name}
            locked={trial.reveal !== null}
            card={trial.site_cards.find((c) => c.level === i + 1)}
            onCard={(card) => write.mutate(card)}
          />
        ))}
      </div>
      <Trouble error={write.error} />
      <p className="soft">{text.place.sprayCaution}</p>
    </section>
  );
}

interface CardProps {
  level: number;
  name: string;
  card: Schemas["SiteCard"] | undefined;
  locked: boolean;
  onCard: (card: Schemas["SiteCard"]) => void;
}

function Card({ level, name, card, locked, onCard }: CardProps) {
  const most = useQuery(catalogueQuery).data?.limits.card_letters;
  const blank = {
    level,
    aspect: "",
    shade: "",
    before: "",
    grows_now: "",
    damage: "",
  };
  const [draft, setDraft] = useState({ ...blank, ...card });
  const commit = () =>
    JSON.stringify(draft) !== JSON.stringify({ ...blank, ...card }) &&
    onCard(draft);
  return (
    <div className="site-card">
      <h3>{name}</h3>
      {LINES.map((line) => (
        <label key={line} className="field">
          <span>{text.place.card[line]}</span>
          <Input
            name={`site-${level}-${line}`}
            value={draft[line]}
            disabled={locked}
            maxLength={most}
            onChange={(e) => setDraft({ ...draft, [line]: e.target.value })}
            onBlur={commit}
            onPressEnter={commit}
          />
        </label>
      ))}
    </div>
  );
}
