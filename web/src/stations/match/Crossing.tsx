import { Button, Input, Select } from "antd";
import { useState } from "react";
import type { Schemas } from "../../api/client";
import { cellOf, withCell } from "../../marks/cell";
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
  const shared = conditions.filter((c) => new Set(sheet.treatments.map((t) => cellOf(t, c.key))).size === 1);
  const now = key === null ? "" : cellOf(sheet.treatments[0], key);
  if (sheet.treatments.length > 4) {
    return null;
  }
  const cross = () => {
    if (key === null) {
      return;
    }
    const other = sheet.treatments.map((t) => ({
      ...withCell(t, key, value.trim()),
      name: `${t.name}, ${value.trim()}`,
      control: false,
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
          options={shared.map((c) => ({ value: c.key, label: c.name }))}
        />
      </label>
      <label className="field">
        <span>{text.match.crossWith(now)}</span>
        <Input name="cross-value" value={value} onChange={(e) => setValue(e.target.value)} onPressEnter={() => value.trim() && cross()} />
      </label>
      <Button disabled={key === null || value.trim() === "" || value.trim() === now} onClick={cross}>
        {text.match.crossDo(2 * sheet.treatments.length)}
      </Button>
      <button type="button" className="plain" onClick={() => setOpen(false)}>
        {text.match.crossNot}
      </button>
    </span>
  );
}
