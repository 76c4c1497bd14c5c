import { useMutation, useQueryClient } from "@tanstack/react-query";
import { Button, Input } from "antd";
import { useState } from "react";
import { ProblemError, type Schemas } from "../api/client";
import { Trouble } from "../frame/Trouble";
import { Points } from "../marks/Points";
import { seatQuery, sendTaste } from "../queries/tasting";
import { text } from "../text/en";
import { draftOf, isWhole, keepDraft, type Draft } from "./draft";

interface Props {
  token: string;
  page: Schemas["SeatPage"];
}

/** What a taster says. It stays on the phone until it was sent. */
export function Answering({ token, page }: Props) {
  const words = text.taste;
  const queries = useQueryClient();
  const [draft, setDraft] = useState(() => draftOf(token, page));
  const [asked, setAsked] = useState(false);
  const send = useMutation({
    mutationFn: () =>
      sendTaste(token, {
        picked: draft.picked,
        liking: draft.liking.map((p) => p ?? 0),
        attributes: pointsOf(draft),
        taster: draft.taster,
      }),
    onSuccess: (view) => {
      keepDraft(token, null);
      queries.setQueryData(seatQuery(token).queryKey, view);
    },
  });
  const set = (change: Partial<Draft>) => {
    const next = { ...draft, ...change };
    keepDraft(token, next);
    setDraft(next);
    send.reset();
  };
  const whole = isWhole(draft, page.asked);
  const offline =
    send.error instanceof ProblemError && send.error.problem.code === "offline";
  return (
    <>
      <p className="soft">{words.how}</p>
      <Cautions page={page} />
      <p className="ask">{words.questions[page.asked]}</p>
      {page.asked !== "liking" && <Which page={page} draft={draft} set={set} />}
      {page.asked === "liking" && <Liked page={page} draft={draft} set={set} />}
      <label className="field">
        <span>{words.name}</span>
        <Input
          name="taster"
          value={draft.taster}
          maxLength={60}
          onChange={(e) => set({ taster: e.target.value })}
        />
      </label>
      <Button
        type="primary"
        size="large"
        block
        loading={send.isPending}
        onClick={() => {
          setAsked(true);
          if (whole) {
            send.mutate();
          }
        }}
      >
        {words.send}
      </Button>
      {asked && !whole && (
        <p className="trouble" role="alert">
          {words.missing}
        </p>
      )}
      {send.error &&
        (offline ? (
          <p className="trouble" role="alert">
            {words.lost}
          </p>
        ) : (
          <Trouble error={send.error} />
        ))}
      {send.isSuccess && (
        <p className="thanks" role="status">
          {words.sent}
        </p>
      )}
    </>
  );
}

/** Points of what is asked beside, as they are sent. */
const pointsOf = (draft: Draft): Record<string, number[]> =>
  Object.fromEntries(
    Object.entries(draft.attributes).map(([key, points]) => [
      key,
      points.map((p) => p ?? 0),
    ]),
  );

function Cautions({ page }: { page: Props["page"] }) {
  return (
    <details open={page.answer === null}>
      <summary>{text.taste.before}</summary>
      <ul>
        {page.cautions.map((c) => (
          <li key={c}>{c}</li>
        ))}
      </ul>
    </details>
  );
}

interface PartProps {
  page: Props["page"];
  draft: Draft;
  set: (change: Partial<Draft>) => void;
}

function Which({ page, draft, set }: PartProps) {
  return (
    <>
      <div
        className="which"
        role="group"
        aria-label={text.taste.questions[page.asked]}
      >
        {page.codes.map((code, place) => (
          <button
            key={code}
            type="button"
            aria-pressed={draft.picked === place}
            onClick={() => set({ picked: place })}
          >
            {code}
          </button>
        ))}
      </div>
      <p className="soft">{text.taste.guess}</p>
    </>
  );
}

function Liked({ page, draft, set }: PartProps) {
  const words = text.taste;
  const at = (points: (number | null)[], place: number, value: number) =>
    points.map((p, i) => (i === place ? value : p));
  return (
    <>
      {page.codes.map((code, place) => (
        <section key={code} className="cup">
          <h2>{code}</h2>
          <Points
            label={text.tasting.howMuch(words.cup(code))}
            value={draft.liking[place] ?? null}
            words={page.liking}
            least={page.liking[0] ?? ""}
            most={page.liking[8] ?? ""}
            onChange={(value) =>
              set({ liking: at(draft.liking, place, value) })
            }
          />
          {page.attributes.map((a) => (
            <Points
              key={a.key}
              label={words.attribute(a.name, code)}
              value={draft.attributes[a.key]?.[place] ?? null}
              least={a.least}
              most={a.most}
              onChange={(value) =>
                set({
                  attributes: {
                    ...draft.attributes,
                    [a.key]: at(draft.attributes[a.key] ?? [], place, value),
                  },
                })
              }
            />
          ))}
        </section>
      ))}
    </>
  );
}
