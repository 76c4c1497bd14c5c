import { Button } from "antd";
import { useState } from "react";
import type { TrialView } from "../../api/client";
import { grouped } from "../../marks/words";
import { text } from "../../text/en";
import { byHand, sealOf } from "./seal";

/** Whether the key that was opened is the one that was sealed, one step after another, worked out on this device. */
export function SealCheck({ trial }: { trial: TrialView }) {
  const words = text.seal;
  const [step, setStep] = useState(0);
  const { reveal, commitment } = trial;
  if (!reveal || typeof commitment !== "string") {
    return null;
  }
  const own = sealOf(reveal.nonce, reveal.key);
  const same = own === commitment;
  const steps = [
    <Step key="sealed" said={words.sealed}>
      {grouped(commitment)}
    </Step>,
    <Step key="key" said={words.key(trial.units.length)}>
      {reveal.key.trimEnd()}
    </Step>,
    <Step key="nonce" said={words.nonce}>
      {grouped(reveal.nonce)}
    </Step>,
    <Step key="worked" said={words.worked}>
      {grouped(own)}
    </Step>,
    <li key="same" data-testid="seal-checked">
      <b>{same ? words.same : words.other}</b>
      <details>
        <summary>{words.elsewhere}</summary>
        <p className="command">
          <code>{byHand(reveal.nonce, reveal.key)}</code>
        </p>
      </details>
    </li>,
  ];
  return (
    <section className="seal-check">
      <h2>{words.title}</h2>
      <p className="soft">{words.why}</p>
      <ol aria-live="polite">{steps.slice(0, step)}</ol>
      {step < steps.length && (
        <Button onClick={() => setStep(step + 1)}>
          {step === 0 ? words.begin : words.next}
        </Button>
      )}
    </section>
  );
}

function Step({ said, children }: { said: string; children: string }) {
  return (
    <li>
      {said}
      <pre tabIndex={0}>{children}</pre>
    </li>
  );
}
