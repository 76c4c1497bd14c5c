import { Link } from "react-router";
import { ProblemError } from "../api/client";
import { text } from "../text/en";

/** A title as a sentence of its own. */
export const closed = (title: string) =>
  /[.?!]$/.test(title) ? title : `${title}.`;

/** Begins like a sentence; the name of a field or a unit stays as it is written. */
export const capital = (sentence: string) =>
  /^[a-z]+[ ,]/.test(sentence)
    ? sentence.charAt(0).toUpperCase() + sentence.slice(1)
    : sentence;

/** What happened, what was kept and what to do, beside where it arose. */
export function Trouble({ error }: { error: unknown }) {
  if (!error) {
    return null;
  }
  const problem = error instanceof ProblemError ? error.problem : null;
  return (
    <p className="trouble" role="alert">
      <b>{closed(problem?.title ?? text.frame.trouble)}</b>{" "}
      {capital(problem?.detail ?? String(error))}
    </p>
  );
}

export function NotHere() {
  return (
    <main className="sheet alone lost">
      <h1>{text.frame.notHere}</h1>
      <p>
        <Link to="/">{text.frame.backToToday}</Link>
      </p>
    </main>
  );
}
