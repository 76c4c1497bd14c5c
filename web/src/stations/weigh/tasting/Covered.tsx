import { Button, Input } from "antd";
import { useState } from "react";
import type { Schemas } from "../../../api/client";
import { Points } from "../../../marks/Points";
import type { useDeed } from "../../../queries/tasting";
import { text } from "../../../text/en";
import { Closing } from "./Closing";

interface Props {
  own: Schemas["TastingView"];
  liking: string[];
  mine: boolean;
  deed: ReturnType<typeof useDeed>;
}

/** Covered cups, serving by serving: fill, mix, taste, say; only then look. */
export function Covered({ own, liking, mine, deed }: Props) {
  const words = text.tasting;
  const [changing, setChanging] = useState(false);
  // Who tastes is asked once, and stays for the servings that follow.
  const [taster, setTaster] = useState("");
  const seat = own.seats.find((s) => !s.known);
  return (
    <section className="runs covered" data-testid="covered">
      <h3>{words.kinds.covered}</h3>
      {!own.open && <p>{words.over}</p>}
      {own.open && !seat && <p className="count">{words.coveredDone}</p>}
      {own.open && seat && (
        <>
          <p className="count" role="status">
            {words.serving(seat.seat, own.seats.length)}
          </p>
          {seat.answered && !changing ? (
            <Look
              seat={seat}
              own={own}
              deed={deed}
              change={() => setChanging(true)}
            />
          ) : (
            <Tasted
              key={seat.seat}
              seat={seat}
              own={own}
              liking={liking}
              deed={deed}
              who={[taster, setTaster]}
              done={() => setChanging(false)}
            />
          )}
        </>
      )}
      {mine && <Closing own={own} deed={deed} />}
    </section>
  );
}

interface StepProps {
  own: Props["own"];
  seat: Schemas["SeatView"];
  deed: Props["deed"];
}

/** What is done before the look, and what is said. */
function Tasted({
  own,
  seat,
  liking,
  deed,
  who: [taster, setTaster],
  done,
}: StepProps & {
  liking: string[];
  who: [string, (name: string) => void];
  done: () => void;
}) {
  const words = text.tasting;
  const [picked, setPicked] = useState<number | null>(null);
  const [points, setPoints] = useState<(number | null)[]>([null, null]);
  const [one = "", other = ""] = seat.cups.map((c) => c.from[0] ?? "");
  const whole = picked !== null && points.every((p) => p !== null);
  const keep = async () => {
    const body = {
      picked,
      liking: points.map((p) => p ?? 0),
      attributes: {},
      taster,
    };
    await deed
      .mutateAsync({ kind: "answer", no: own.no, seat: seat.seat, body })
      .then(done, () => undefined);
  };
  return (
    <>
      <ol className="steps">
        <li>{words.fill(one, other)}</li>
        <li>{words.mix}</li>
        <li>{seat.seat % 2 === 1 ? words.first.left : words.first.right}</li>
      </ol>
      <label className="field">
        <span>{words.who}</span>
        <Input
          name="taster"
          value={taster}
          maxLength={60}
          onChange={(e) => setTaster(e.target.value)}
        />
      </label>
      <div className="which" role="group" aria-label={words.whichBetter}>
        <p>
          <b>{words.whichBetter}</b> <span className="soft">{words.guess}</span>
        </p>
        {words.sides.map((side, i) => (
          <button
            key={side}
            type="button"
            aria-pressed={picked === i}
            onClick={() => setPicked(i)}
          >
            {side}
          </button>
        ))}
      </div>
      {words.sides.map((side, i) => (
        <Points
          key={side}
          label={words.howMuch(side)}
          value={points[i] ?? null}
          words={liking}
          least={liking[0] ?? ""}
          most={liking[8] ?? ""}
          onChange={(value) =>
            setPoints(points.map((p, at) => (at === i ? value : p)))
          }
        />
      ))}
      <Button
        type="primary"
        disabled={!whole}
        loading={deed.isPending}
        onClick={() => void keep()}
      >
        {words.keep}
      </Button>
    </>
  );
}

/** What stood under the cups. */
function Look({ own, seat, deed, change }: StepProps & { change: () => void }) {
  const words = text.tasting;
  const codes = seat.cups.map((c) => c.from[0] ?? "");
  const look = (left: string) =>
    deed.mutate({
      kind: "uncover",
      no: own.no,
      seat: seat.seat,
      codes: [left, ...codes.filter((c) => c !== left)],
    });
  return (
    <div className="which" role="group" aria-label={words.look}>
      <p>
        <b>{words.look}</b>
      </p>
      {codes.map((code) => (
        <button
          key={code}
          type="button"
          disabled={deed.isPending}
          onClick={() => look(code)}
        >
          {code}
        </button>
      ))}
      <button type="button" className="plain" onClick={change}>
        {words.again}
      </button>
    </div>
  );
}
