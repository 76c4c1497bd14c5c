import { useQuery } from "@tanstack/react-query";
import { Button, Checkbox, Input, Radio, Select } from "antd";
import { useState } from "react";
import type { Schemas } from "../../../api/client";
import { foretoldQuery, type useDeed } from "../../../queries/tasting";
import { text } from "../../../text/en";

type Kind = keyof typeof text.tasting.kinds;

interface Props {
  view: Schemas["TastingsView"];
  deed: ReturnType<typeof useDeed>;
}

const KINDS: Kind[] = ["covered", "triangle", "pair", "liking"];
const USUAL: Record<Kind, string> = {
  covered: "6",
  triangle: "12",
  pair: "12",
  liking: "12",
};

/** What a kind is as it is sent. */
const settingOf = (
  kind: Kind,
): Pick<Schemas["TastingSent"], "asked" | "way"> =>
  kind === "covered"
    ? { asked: "pair", way: "covered" }
    : { asked: kind, way: "served" };

/** Sets a tasting up: what is asked, what goes into the cups, how many taste, and what so many could see. */
export function Begin({ view, deed }: Props) {
  const words = text.tasting;
  const free = view.offers
    .filter((o) => o.barred.length === 0)
    .map((o) => o.treatment);
  const [kind, setKind] = useState<Kind>("covered");
  const [chosen, setChosen] = useState<number[]>(free.length === 2 ? free : []);
  const [count, setCount] = useState(USUAL.covered);
  const [hours, setHours] = useState(2);
  const [beside, setBeside] = useState<Schemas["Attribute"][]>([]);
  const [agreed, setAgreed] = useState(false);
  const seats = Number(count);
  const setting = settingOf(kind);
  const of = free.filter((t) => chosen.includes(t));
  const enough = kind === "liking" ? of.length >= 2 : of.length === 2;
  const waits = !enough
    ? kind === "liking"
      ? words.waits.more
      : words.waits.two
    : agreed
      ? null
      : words.waits.agreed;
  const begin = () =>
    deed.mutate({
      kind: "begin",
      body: {
        ...setting,
        of,
        seats,
        hours: kind === "covered" ? 24 : hours,
        attributes: kind === "liking" ? beside : [],
      },
    });
  return (
    <section className="begin">
      <h3>{words.begin}</h3>
      <Kinds
        kind={kind}
        choose={(k) => {
          setKind(k);
          setCount(USUAL[k]);
        }}
      />
      <Cups view={view} of={of} set={setChosen} />
      {kind === "liking" && of.length > 1 && (
        <p className="soft">
          {words.against(
            view.offers.find((o) => o.treatment === of[0])?.name ?? "",
          )}
        </p>
      )}
      {kind === "liking" && (
        <fieldset>
          <legend>{words.beside}</legend>
          <Checkbox.Group
            value={beside}
            onChange={setBeside}
            options={view.attributes.map((a) => ({
              value: a.key,
              label: a.name,
            }))}
          />
        </fieldset>
      )}
      <div className="row">
        <label className="field">
          <span>{kind === "covered" ? words.servings : words.tasters}</span>
          <Input
            name="tasters"
            inputMode="numeric"
            value={count}
            onChange={(e) => setCount(e.target.value)}
          />
        </label>
        {kind !== "covered" && (
          <label className="field">
            <span>{words.hours}</span>
            <Select
              id="taste-hours"
              value={hours}
              onChange={setHours}
              options={Object.entries(words.hourSpans).map(
                ([value, label]) => ({ value: Number(value), label }),
              )}
            />
          </label>
        )}
        <Sees asked={setting.asked} seats={seats} />
      </div>
      <Checkbox
        className="agreed"
        checked={agreed}
        onChange={(e) => setAgreed(e.target.checked)}
      >
        {words.agreed}
      </Checkbox>
      <div className="go">
        <Button
          type="primary"
          disabled={waits !== null || !(seats > 0)}
          loading={deed.isPending}
          onClick={begin}
        >
          {words.start}
        </Button>
        {waits && <span className="soft">{waits}</span>}
      </div>
    </section>
  );
}

/** What is asked, and how it is kept blind. */
function Kinds({ kind, choose }: { kind: Kind; choose: (kind: Kind) => void }) {
  const words = text.tasting;
  return (
    <Radio.Group
      className="kinds"
      value={kind}
      aria-label={words.begin}
      onChange={(e) => choose(e.target.value as Kind)}
    >
      {KINDS.map((k) => (
        <Radio key={k} value={k}>
          <b>{words.kinds[k]}</b>{" "}
          <span className="soft">{words.kindWhy[k]}</span>
        </Radio>
      ))}
    </Radio.Group>
  );
}

/** What goes into the cups; what stays off the table says why. */
function Cups({
  view,
  of,
  set,
}: {
  view: Props["view"];
  of: number[];
  set: (of: number[]) => void;
}) {
  return (
    <fieldset className="cups">
      <legend>{text.tasting.what}</legend>
      {view.offers.map((offer) => {
        const barred = offer.barred.length > 0;
        return (
          <div key={offer.treatment}>
            <Checkbox
              disabled={barred}
              checked={of.includes(offer.treatment)}
              onChange={(e) =>
                set(
                  e.target.checked
                    ? [...of, offer.treatment]
                    : of.filter((t) => t !== offer.treatment),
                )
              }
            >
              {offer.name}
            </Checkbox>
            {offer.barred.map((why) => (
              <p key={why} className="off">
                {why}
              </p>
            ))}
          </div>
        );
      })}
    </fieldset>
  );
}

/** What so many answers could see. */
function Sees({ asked, seats }: { asked: Schemas["Asked"]; seats: number }) {
  const told = useQuery(foretoldQuery(asked, seats)).data;
  const planned = told?.planned;
  return (
    <p className="sees" aria-live="polite">
      {told?.said}{" "}
      {typeof planned === "number" && planned > seats
        ? text.tasting.planned(planned)
        : ""}
    </p>
  );
}
