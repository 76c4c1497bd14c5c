import { useQuery } from "@tanstack/react-query";
import { Input } from "antd";
import { useEffect, useState } from "react";
import type { TrialView } from "../../api/client";
import { inPlace } from "../../marks/words";
import { catalogueQuery, type RackChange } from "../../queries/trial";
import { text } from "../../text/en";

interface Props {
  trial: TrialView;
  locked: boolean;
  put: (change: RackChange) => void;
}

/** What single levels are called, and the crop of each where not all hold the same. */
export function LevelNames({ trial, locked, put }: Props) {
  const { rack } = trial;
  const [kind, levels] = [rack.kind ?? "rack", rack.levels];
  return (
    <details className="level-names" open={kind === "sites"}>
      <summary>{text.place.namesOf[kind]}</summary>
      {Array.from({ length: levels }, (_, i) => (
        <div key={i} className="level-line">
          <LevelName
            stem="level-name"
            level={i + 1}
            value={rack.names?.[i] ?? ""}
            locked={locked}
            label={text.place.nameOf(kind, i + 1)}
            onName={(own) =>
              put((now) => ({ names: replaced(now.names, now.levels, i, own) }))
            }
          />
          <LevelName
            stem="level-crop"
            level={i + 1}
            value={rack.crops?.[i] ?? ""}
            locked={locked}
            label={text.place.cropOf(trial.ask.crop)}
            onName={(own) =>
              put((now) => ({ crops: replaced(now.crops, now.levels, i, own) }))
            }
          />
        </div>
      ))}
      <p className="soft">{inPlace(trial, text.place.cropsWhy)}</p>
    </details>
  );
}

/** A list of one entry a level, with one of them replaced; empty where none is left. */
function replaced(
  list: string[] | undefined,
  levels: number,
  at: number,
  own: string,
): string[] {
  const next = Array.from({ length: levels }, (_, i) =>
    i === at ? own : (list?.[i] ?? ""),
  );
  return next.some((entry) => entry !== "") ? next : [];
}

interface LevelNameProps {
  stem: string;
  level: number;
  value: string;
  label: string;
  locked: boolean;
  onName: (name: string) => void;
}

function LevelName({
  stem,
  level,
  value,
  label,
  locked,
  onName,
}: LevelNameProps) {
  const [draft, setDraft] = useState(value);
  const most = useQuery(catalogueQuery).data?.limits.level_letters;
  useEffect(() => setDraft(value), [value]);
  const commit = () => draft.trim() !== value && onName(draft.trim());
  return (
    <Input
      name={`${stem}-${level}`}
      aria-label={label}
      placeholder={label}
      value={draft}
      disabled={locked}
      maxLength={most}
      onChange={(e) => setDraft(e.target.value)}
      onBlur={commit}
      onPressEnter={commit}
    />
  );
}
