import { Button, Input } from "antd";
import { useState } from "react";
import { Link } from "react-router";
import type { Schemas, TrialView } from "../api/client";
import { useAnswer } from "../queries/ledger";
import { useIsOwner } from "../queries/people";
import { isStation, text } from "../text/en";
import { Trouble } from "./Trouble";

type Finding = Schemas["Finding"];

/** Sheet and places are sealed by the first record, everything by the opened key. */
function canMend(trial: TrialView, station: string): boolean {
  return (
    trial.reveal === null &&
    (trial.sealed_at === null || !["match", "place"].includes(station))
  );
}

/** The fairness ledger, in reach on every station. */
export function Ledger({ trial }: { trial: TrialView }) {
  const { open, sound, waits } = trial.ledger;
  return (
    <details className="ledger" open={window.innerWidth > 760}>
      <summary>
        <h2>{text.ledger.title}</h2>
        <span className="sum">
          {text.ledger.sum(open.length, sound.length)}
        </span>
      </summary>
      {open.map((finding) => (
        <Open key={finding.code} trial={trial} finding={finding} />
      ))}
      {sound.length > 0 && <h3 className="over">{text.ledger.sound}</h3>}
      <ul>
        {sound.map((what) => (
          <li key={what}>{what}</li>
        ))}
      </ul>
      {waits.length > 0 && (
        <>
          <h3 className="over">{text.ledger.waits}</h3>
          <p className="waits">{waits.join(", ")}</p>
        </>
      )}
    </details>
  );
}

/** A finding, with the records behind it and what the grower says to it. */
function Open({ trial, finding }: { trial: TrialView; finding: Finding }) {
  const { station } = finding;
  const words = text.ledger;
  const [writing, setWriting] = useState(false);
  const owner = useIsOwner();
  const said = finding.answer ? words.change : words.answer;
  return (
    <article className={`finding ${finding.severity}`}>
      <h3>
        {finding.title} <small>{words.severity[finding.severity]}</small>
      </h3>
      <p>{finding.seen}</p>
      <p className="remedy">{finding.remedy}</p>
      {finding.answer && !writing && (
        <p className="answered">
          <b>{words.answered}:</b> {finding.answer.text}
        </p>
      )}
      <p className="ways">
        {isStation(station) && (
          <Link to={`/trials/${trial.id}/${station}`}>
            {(canMend(trial, station) ? words.goTo : words.see)(
              text.stations[station],
            )}
          </Link>
        )}
        {finding.units.map((code) => (
          <Link key={code} to={`/trials/${trial.id}/units/${code}`}>
            {code}
          </Link>
        ))}
        {owner && !writing && (
          <button
            type="button"
            className="plain"
            onClick={() => setWriting(true)}
            aria-label={words.to(said, finding.title)}
          >
            {said}
          </button>
        )}
      </p>
      {writing && (
        <Answering
          trial={trial}
          finding={finding}
          close={() => setWriting(false)}
        />
      )}
    </article>
  );
}

function Answering({
  trial,
  finding,
  close,
}: {
  trial: TrialView;
  finding: Finding;
  close: () => void;
}) {
  const words = text.ledger;
  const [said, setSaid] = useState(finding.answer?.text ?? "");
  const answer = useAnswer(trial.id);
  return (
    <form
      className="answering"
      onSubmit={(event) => {
        event.preventDefault();
        answer
          .mutateAsync({ code: finding.code, text: said })
          .then(close, () => undefined);
      }}
      onKeyDown={(event) => event.key === "Escape" && close()}
    >
      <label>
        <span>{words.answerFor(finding.title)}</span>
        <Input.TextArea
          name="answer"
          autoFocus
          value={said}
          maxLength={400}
          autoSize={{ minRows: 2 }}
          onChange={(e) => setSaid(e.target.value)}
        />
      </label>
      <p className="soft">{words.answerWhy}</p>
      <Button htmlType="submit" size="small" loading={answer.isPending}>
        {words.keep}
      </Button>{" "}
      <button type="button" className="plain" onClick={close}>
        {words.leave}
      </button>
      <Trouble error={answer.error} />
    </form>
  );
}
