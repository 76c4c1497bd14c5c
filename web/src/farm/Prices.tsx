import { useQuery } from "@tanstack/react-query";
import { Button, Input } from "antd";
import { useEffect, useState } from "react";
import type { Schemas } from "../api/client";
import { Trouble } from "../frame/Trouble";
import { typed } from "../marks/number";
import { pricesQuery, usePrices } from "../queries/money";
import { text } from "../text/en";

type Prices = Schemas["Prices"];
type Draft = Record<
  | "currency"
  | "per_kwh"
  | "cheap"
  | "from"
  | "until"
  | "lamps_on_at"
  | "per_hour"
  | "days_between"
  | "as_of",
  string
>;

const said = (value: number | null | undefined) =>
  typeof value === "number" ? String(value) : "";

function drafted(prices: Prices): Draft {
  const { cheap } = prices;
  return {
    currency: prices.currency ?? "",
    per_kwh: said(prices.per_kwh),
    cheap: said(cheap?.per_kwh),
    from: said(cheap?.from),
    until: said(cheap?.until),
    lamps_on_at: said(prices.lamps_on_at),
    per_hour: said(prices.per_hour),
    days_between: said(prices.days_between),
    as_of: prices.as_of ?? "",
  };
}

function meant(draft: Draft): Prices {
  const figure = (text: string) => typed(text);
  const [from, until, per_kwh] = [
    figure(draft.from),
    figure(draft.until),
    figure(draft.cheap),
  ];
  const cheap =
    from !== null && until !== null && per_kwh !== null
      ? { from, until, per_kwh }
      : null;
  return {
    currency: draft.currency,
    per_kwh: figure(draft.per_kwh),
    cheap,
    lamps_on_at: figure(draft.lamps_on_at) ?? 6,
    per_hour: figure(draft.per_hour),
    days_between: figure(draft.days_between) ?? 2,
    as_of: draft.as_of || null,
  };
}

/** What money is counted in, and what electricity and an hour of work cost. */
export function PricesOfFarm({ owner }: { owner: boolean }) {
  const words = text.prices;
  const found = useQuery(pricesQuery);
  const put = usePrices();
  const [draft, setDraft] = useState<Draft | null>(null);
  useEffect(() => {
    if (found.data) {
      setDraft(drafted(found.data));
    }
  }, [found.data]);
  if (!draft) {
    return <Trouble error={found.error} />;
  }
  const fields = Object.keys(words.fields) as (keyof Draft)[];
  const odd = (key: keyof Draft) =>
    !["currency", "as_of"].includes(key) && Number.isNaN(typed(draft[key]));
  return (
    <section className="prices">
      <h2>{words.title}</h2>
      <p className="soft">{words.why}</p>
      <form
        className="farm-fields"
        onSubmit={(event) => {
          event.preventDefault();
          put.mutate(meant(draft));
        }}
      >
        {fields.map((key) => (
          <label key={key} className="field">
            <span>{words.fields[key]}</span>
            <Input
              name={`price-${key}`}
              disabled={!owner}
              type={key === "as_of" ? "date" : "text"}
              aria-invalid={odd(key) || undefined}
              value={draft[key]}
              inputMode={
                key === "currency" || key === "as_of" ? undefined : "decimal"
              }
              onChange={(e) => setDraft({ ...draft, [key]: e.target.value })}
            />
          </label>
        ))}
        <Button
          htmlType="submit"
          disabled={!owner || fields.some(odd)}
          loading={put.isPending}
        >
          {words.keep}
        </Button>
      </form>
      {put.isSuccess && <p className="soft">{words.kept}</p>}
      <Trouble error={put.error} />
    </section>
  );
}
