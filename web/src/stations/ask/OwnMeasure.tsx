import { useMutation, useQueryClient } from "@tanstack/react-query";
import { Button, Input, Select } from "antd";
import { useState } from "react";
import { answered, client, type Schemas } from "../../api/client";
import { Trouble } from "../../frame/Trouble";
import { typed } from "../../marks/number";
import { catalogueQuery } from "../../queries/trial";
import { text } from "../../text/en";

type Kind = Schemas["OwnKind"];

interface Draft {
  name: string;
  kind: Kind;
  unit: string;
  least: string;
  most: string;
  better: Schemas["Better"];
  grades: string[];
}

const FRESH: Draft = {
  name: "",
  kind: "amount",
  unit: "",
  least: "0",
  most: "",
  better: "higher",
  grades: ["", "", ""],
};
/** Grades that one can have at most. */
const MOST_GRADES = 5;

/** As it is sent: what is no number is left for the server to say so. */
const sent = (draft: Draft): Schemas["OwnMeasure"] => ({
  name: draft.name,
  kind: draft.kind,
  unit: draft.unit,
  least: typed(draft.least) ?? 0,
  most: typed(draft.most) ?? 0,
  better: draft.better,
  grades:
    draft.kind === "score"
      ? draft.grades.filter((words) => words.trim() !== "")
      : [],
});

/** A measure that the catalogue does not have: named, limited, and put among what is recorded. */
export function OwnMeasure({ onMade }: { onMade: (key: string) => void }) {
  const words = text.ownMeasure;
  const queries = useQueryClient();
  const [draft, setDraft] = useState(FRESH);
  const make = useMutation({
    mutationFn: () =>
      answered(client.POST("/api/v1/own-measures", { body: sent(draft) })),
    onSuccess: (made) => {
      // It is known to all once the plan is saved; here at once.
      queries.setQueryData(
        catalogueQuery.queryKey,
        (old) =>
          old && {
            ...old,
            measures: [...old.measures.filter((m) => m.key !== made.key), made],
          },
      );
      setDraft(FRESH);
      onMade(made.key);
    },
  });
  const set = (change: Partial<Draft>) => setDraft({ ...draft, ...change });
  return (
    <details className="wide own-measure">
      <summary>{words.title}</summary>
      <p className="soft">{words.why}</p>
      <div className="row">
        <label className="field own-name">
          <span>{words.name}</span>
          <Input
            name="own-name"
            value={draft.name}
            placeholder={words.namePlaceholder}
            onChange={(e) => set({ name: e.target.value })}
          />
        </label>
        <label className="field">
          <span>{words.kind}</span>
          <Select<Kind>
            value={draft.kind}
            onChange={(kind) => set({ kind })}
            id="own-kind"
            popupMatchSelectWidth={false}
            options={(Object.keys(words.kinds) as Kind[]).map((value) => ({
              value,
              label: words.kinds[value],
            }))}
          />
        </label>
        <label className="field">
          <span>{text.ask.better}</span>
          <Select
            value={draft.better}
            onChange={(better) => set({ better })}
            id="own-better"
            options={Object.entries(text.ask.betters).map(([value, label]) => ({
              value: value as Schemas["Better"],
              label,
            }))}
          />
        </label>
      </div>
      <Limits draft={draft} set={set} />
      <Button
        disabled={draft.name.trim() === ""}
        loading={make.isPending}
        onClick={() => make.mutate()}
      >
        {words.add}
      </Button>
      <Trouble error={make.error} />
    </details>
  );
}

interface LimitsProps {
  draft: Draft;
  set: (change: Partial<Draft>) => void;
}

/** Between what it lies, or what its grades stand for. */
function Limits({ draft, set }: LimitsProps) {
  const words = text.ownMeasure;
  if (draft.kind === "first_seen") {
    return <p className="soft">{words.firstSeen}</p>;
  }
  if (draft.kind === "score") {
    const last = draft.grades.length - 1;
    const put = (n: number, own: string) => {
      const grades = draft.grades.map((g, i) => (i === n ? own : g));
      set({
        grades:
          n === last && own !== "" && grades.length < MOST_GRADES
            ? [...grades, ""]
            : grades,
      });
    };
    return (
      <div className="row">
        {draft.grades.map((grade, n) => (
          <label className="field short" key={n}>
            <span>{words.grade(n + 1)}</span>
            <Input
              name={`own-grade-${n + 1}`}
              value={grade}
              placeholder={words.gradePlaceholders[n]}
              onChange={(e) => put(n, e.target.value)}
            />
          </label>
        ))}
      </div>
    );
  }
  return (
    <div className="row">
      {draft.kind === "amount" && (
        <label className="field short">
          <span>{words.unit}</span>
          <Input
            name="own-unit"
            value={draft.unit}
            placeholder="mm"
            onChange={(e) => set({ unit: e.target.value })}
          />
        </label>
      )}
      <label className="field short">
        <span>{words.least}</span>
        <Input
          name="own-least"
          inputMode="decimal"
          value={draft.least}
          onChange={(e) => set({ least: e.target.value })}
        />
      </label>
      <label className="field short">
        <span>{words.most}</span>
        <Input
          name="own-most"
          inputMode="decimal"
          value={draft.most}
          onChange={(e) => set({ most: e.target.value })}
        />
      </label>
    </div>
  );
}
