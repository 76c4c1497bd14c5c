import createClient from "openapi-fetch";
import type { components, paths } from "./schema";

export type Schemas = components["schemas"];
export type TrialView = Schemas["TrialView"];
export type Problem = Schemas["Problem"];

export const client = createClient<paths>({ baseUrl: "/" });

/** A problem as the server told it, or the network's silence. */
export class ProblemError extends Error {
  readonly problem: Problem;
  constructor(problem: Problem) {
    super(problem.detail);
    this.problem = problem;
  }
}

const SILENCE: Problem = {
  type: "about:blank",
  status: 0,
  code: "offline",
  title: "No answer",
  detail: "Iron Twin does not answer. Nothing is lost; it is tried again.",
};

interface Answer<T> {
  data?: T;
  error?: unknown;
  response: Response;
}

function isProblem(value: unknown): value is Problem {
  return (
    typeof value === "object" &&
    value !== null &&
    "code" in value &&
    "detail" in value
  );
}

/** What became of each record, of the answer to a list of them; none where that is no such answer. */
export const answersOf = (answer: unknown): Schemas["RecordAnswer"][] =>
  typeof answer === "object" &&
  answer !== null &&
  "records" in answer &&
  Array.isArray(answer.records)
    ? (answer.records as Schemas["RecordAnswer"][])
    : [];

/** Why a list of records was not taken in, of the answer to it; null where that is no such answer. */
export function refusalOf(answer: unknown): Problem | null {
  const refused = answersOf(answer).find((own) => own.state === "refused");
  return refused?.state === "refused" ? refused.problem : null;
}

/** Unwraps an answer, or throws a ProblemError. */
export async function answered<T>(asked: Promise<Answer<T>>): Promise<T> {
  let answer: Answer<T>;
  try {
    answer = await asked;
  } catch {
    throw new ProblemError(SILENCE);
  }
  if (!answer.response.ok) {
    throw new ProblemError(
      (isProblem(answer.error) ? answer.error : refusalOf(answer.error)) ?? {
        ...SILENCE,
        status: answer.response.status,
        code: "unreadable",
        detail: `The server answered ${answer.response.status}.`,
      },
    );
  }
  return answer.data as T;
}
