import { useQuery } from "@tanstack/react-query";
import { shown } from "../marks/number";
import { Wide } from "../marks/Wide";
import { guessersQuery } from "../queries/guesses";
import { text } from "../text/en";

/** Who guesses how well, over all trials; nothing before somebody's guess was opened. */
export function Guessers() {
  const words = text.guesses;
  const list = useQuery(guessersQuery).data ?? [];
  if (list.length === 0) {
    return null;
  }
  return (
    <section className="guesses">
      <h2>{words.over}</h2>
      <Wide className="numbers" name={words.over}>
        <table>
          <thead>
            <tr>
              {words.overColumns.map((c) => (
                <th key={c} scope="col">
                  {c}
                </th>
              ))}
            </tr>
          </thead>
          <tbody>
            {list.map((own) => (
              <tr key={own.name}>
                <th scope="row">{own.name}</th>
                <td>{own.right}</td>
                <td>{own.wrong}</td>
                <td>{own.open}</td>
                <td>
                  {typeof own.off_points === "number"
                    ? words.off(shown(own.off_points, 0))
                    : "–"}
                </td>
              </tr>
            ))}
          </tbody>
        </table>
      </Wide>
    </section>
  );
}
