import { useQuery } from "@tanstack/react-query";
import { useParams } from "react-router";
import { ProblemError } from "../api/client";
import { Trouble } from "../frame/Trouble";
import { seatQuery } from "../queries/tasting";
import { text } from "../text/en";
import { Answering } from "./Answering";
import "./taste.css";

/** The page of one seat at a tasting: nothing but what is asked. */
export default function Taste() {
  const { token = "" } = useParams();
  const words = text.taste;
  const found = useQuery(seatQuery(token));
  const page = found.data;
  const unknown =
    found.error instanceof ProblemError &&
    found.error.problem.code === "not_found";
  return (
    <main className="taste">
      {unknown ? (
        <p className="count">{words.none}</p>
      ) : (
        <Trouble error={found.error} />
      )}
      {page && (
        <>
          <header>
            <h1>{words.title(page.crop)}</h1>
            <span>{words.seat(page.seat)}</span>
          </header>
          {page.open ? (
            <Answering token={token} page={page} />
          ) : (
            <p className="count">{words.over}</p>
          )}
        </>
      )}
    </main>
  );
}
