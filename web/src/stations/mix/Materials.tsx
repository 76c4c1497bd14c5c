import { useQuery } from "@tanstack/react-query";
import { shown } from "../../marks/number";
import { materialsQuery } from "../../queries/calendar";
import { text } from "../../text/en";

/** What the whole trial takes, spare included, and what it costs where prices stand in Stores. */
export function Materials({ trial }: { trial: string }) {
  const materials = useQuery(materialsQuery(trial));
  const list = materials.data ?? [];
  if (list.length === 0) {
    return null;
  }
  const priced = list.filter((m) => typeof m.cost === "number");
  const total = priced.reduce((sum, m) => sum + (m.cost ?? 0), 0);
  return (
    <details className="materials">
      <summary>{text.mix.materials}</summary>
      <table>
        <tbody>
          {list.map((m) => (
            <tr key={`${m.kind} ${m.name} ${m.unit}`}>
              <th scope="row">{m.name}</th>
              <td className="soft">{m.kind === m.name ? "" : m.kind}</td>
              <td className="figure">
                {shown(m.amount, m.amount < 10 ? 1 : 0)} {m.unit}
              </td>
              <td className="figure">
                {typeof m.cost === "number" ? shown(m.cost, 2) : ""}
              </td>
            </tr>
          ))}
        </tbody>
      </table>
      <p className="soft">
        {priced.length > 0
          ? text.mix.materialsCost(shown(total, 2), list.length - priced.length)
          : text.mix.materialsNoPrice}
      </p>
    </details>
  );
}
