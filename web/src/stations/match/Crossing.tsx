import { Button, Input, Select } from "antd";
import { useState } from "react";
import type { Schemas } from "../../api/client";
import { text } from "../../text/en";

interface Props {
  sheet: Schemas["Sheet"];
  conditions: Schemas["ConditionView"][];
  commit: (sheet: Schemas["Sheet"]) => void;
}

/** Grows every treatment once as it is and once with another value of one condition that all share so far. */
export function Crossing({ sheet, conditions, commit }: Props) {
  const [open, setOpen] = useState(false);
  const [key, setKey] = useState<string | null>(null);
  const [value, setValue] = useState("");
  const shared = sheet.conditions.filter((_, row) => new Set(sheet.treatments.map((t) => t.values[row])).size === 1);
  const row = key === null ? -1 : sheet.conditions.indexOf(key);
  const now = sheet.treatments[0]?.values[row] ?? "";
  if (sheet.treatments.length > 4) {
    return null;
  }
  const label = (k: string) => conditions.find((c) => c.key === k)?.name ?? k;
  const cross = () => {
    const other = sheet.treatments.map((t) => ({
      name: `${t.name}, ${value.trim()}`,
      control: false,
      values: t.values.map((v, r) => (r === row ? value.trim() : v)),
    }));
    commit({ ...sheet, treatments: [...sheet.treatments, ...other] });
    setOpen(false);
    setValue("");
    setKey(null);
  };
  if (!open) {
    return (
      <button type="button" className="plain" onClick={() => setOpen(true)}>
        {text.match.cross}
      </button>
    );
  }
  return (
    <span className="crossing">
      <label className="field">
        <span>{text.match.crossWhat}</span>
        <Select
          id="cross-condition" value={key} onChange={setKey} popupMatchSelectWidth={false}
          options={shared.map((k) => ({ value: k, label: label(k) }))}
        />
      </label>
      <label className="field">
        <span>{text.match.crossWith(now)}</span>
        <Input name="cross-value" value={value} onChange={(e) => setValue(e.target.value)} onPressEnter={() => row >= 0 && value.trim() && cross()} />
      </label>
      <Button disabled={row < 0 || value.trim() === "" || value.trim() === now} onClick={cross}>
        {text.match.crossDo(2 * sheet.treatments.length)}
      </Button>
      <button type="button" className="plain" onClick={() => setOpen(false)}>
        {text.match.crossNot}
      </button>
    </span>
  );
}
