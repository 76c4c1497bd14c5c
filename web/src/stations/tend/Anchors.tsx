import type { Schemas } from "../../api/client";
import { Drawing } from "../../marks/Drawing";

/** What the grades of the reading in hand stand for, each drawn: so that two days and two people grade alike. */
export function Anchors({
  reading,
}: {
  reading: Schemas["Column"] | undefined;
}) {
  const anchors = reading?.anchors ?? [];
  const [first, last] = [anchors[0]?.grade, anchors.at(-1)?.grade];
  if (!reading || first === undefined || last === undefined || last <= first) {
    return null;
  }
  return (
    <ol className="anchors" aria-label={reading.name}>
      {anchors.map((a) => (
        <li key={a.grade}>
          <Drawing
            of={reading.key}
            share={(a.grade - first) / (last - first)}
          />
          <b>{a.grade}</b> {a.words}
        </li>
      ))}
    </ol>
  );
}
