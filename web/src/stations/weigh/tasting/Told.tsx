import type { Schemas } from "../../../api/client";
import { shown } from "../../../marks/number";
import { Wide } from "../../../marks/Wide";
import { text } from "../../../text/en";

interface Props {
  own: Schemas["TastingView"];
  offers: Schemas["CupOffer"][];
  attributes: Schemas["AttributeView"][];
}

/** What a tasting tells: sentences first, then the figures of each cup. */
export function Told({ own, offers, attributes }: Props) {
  const words = text.tasting;
  const { told } = own;
  const name = (of: number) =>
    offers.find((o) => o.treatment === of)?.name ?? String(of + 1);
  const parts = told
    ? [
        { key: "liked", name: words.likedRow, rated: told.liking },
        ...attributes.map((a) => ({
          key: a.key,
          name: a.name,
          rated: told.attributes[a.key] ?? [],
        })),
      ]
    : [];
  const full = parts.filter((part) => part.rated.length > 0);
  return (
    <>
      {own.said.map((sentence) => (
        <p key={sentence} className="sentence">
          {sentence}
        </p>
      ))}
      {full.length > 0 && (
        <Wide className="tasted" name={words.tells(own.no)}>
          <table>
            <thead>
              <tr>
                {words.columns.map((c) => (
                  <th
                    key={c}
                    scope="col"
                    title={c === words.columns[5] ? words.pWhy : undefined}
                  >
                    {c}
                  </th>
                ))}
              </tr>
            </thead>
            {full.map((part) => (
              <tbody key={part.key}>
                <tr>
                  <th scope="rowgroup" colSpan={6}>
                    {part.name}
                  </th>
                </tr>
                {part.rated.map((r) => (
                  <tr key={r.of}>
                    <th scope="row">{name(r.of)}</th>
                    <td>{shown(r.mean, 1)}</td>
                    <td>{r.against?.more}</td>
                    <td>{r.against?.less}</td>
                    <td>{r.against?.same}</td>
                    <td>
                      {r.against
                        ? words.p(
                            shown(100 * r.against.p, r.against.p < 0.1 ? 1 : 0),
                          )
                        : ""}
                    </td>
                  </tr>
                ))}
              </tbody>
            ))}
          </table>
        </Wide>
      )}
    </>
  );
}
