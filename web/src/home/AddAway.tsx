import { Button, Input } from "antd";
import { useState } from "react";
import { Trouble } from "../frame/Trouble";
import { useAway } from "../queries/calendar";
import { text } from "../text/en";

/** From when to when somebody is away. */
export default function AddAway({
  today,
  onKept,
}: {
  today: string;
  onKept: () => void;
}) {
  const [draft, setDraft] = useState({ first: "", last: "", note: "" });
  const away = useAway();
  const field = (key: "first" | "last" | "note", label: string) => (
    <label className="field">
      <span>{label}</span>
      <Input
        name={`away-${key}`}
        type={key === "note" ? "text" : "date"}
        min={today}
        value={draft[key]}
        onChange={(e) => setDraft({ ...draft, [key]: e.target.value })}
      />
    </label>
  );
  return (
    <form
      onSubmit={(event) => {
        event.preventDefault();
        away.mutate(
          { ...draft, last: draft.last || draft.first },
          { onSuccess: onKept },
        );
      }}
    >
      {field("first", text.ahead.first)}
      {field("last", text.ahead.last)}
      {field("note", text.ahead.note)}
      <Button
        htmlType="submit"
        loading={away.isPending}
        disabled={draft.first === ""}
      >
        {text.ahead.keep}
      </Button>
      <Trouble error={away.error} />
    </form>
  );
}
