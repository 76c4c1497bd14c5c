import { Button, Input, Select } from "antd";
import { useState } from "react";
import type { Schemas } from "../../api/client";
import { cellOf, withCell } from "../../marks/cell";
import { isNothing, withApplication } from "../../marks/given";
import { text } from "../../text/en";

const isRole = (key: string): key is Schemas["Role"] =>
  key === "feed" || key === "additive";

interface Props {
  sheet: Schemas["Sheet"];
  conditions: Schemas["ConditionView"][];
  commit: (sheet: Schemas["Sheet"]) => void;
}

/** A treatment with another value of what is crossed in; without a name of its own it is called by what it gets. */
function crossed(
  t: Schemas["SheetTreatment"],
  key: string,
  value: string,
): Schemas["SheetTreatment"] {
  const named = { ...t, name: "", control: false };
  if (!isRole(key)) {
    return withCell(named, key, value.trim());
  }
  const at = t.applications.findIndex((a) => a.role === key);
  return withApplication(
    named,
    at < 0 ? null : at,
    isNothing(value)
      ? null
      : { ...t.applications[at], role: key, what: value.trim() },
  );
}

/** Grows every treatment once as it is and once with another value of one condition that all share so far. */
export function Crossing({ sheet, conditions, commit }: Props) {
  const [open, setOpen] = useState(false);
  const [key, setKey] = useState<string | null>(null);
  const [value, setValue] = useState("");
  const namesOf = (t: Schemas["SheetTreatment"] | undefined, role: string) =>
    (t?.applications ?? [])
      .filter((a) => a.role === role)
      .map((a) => a.what)
      .join(" and ");
  const valueOf = (t: Schemas["SheetTreatment"] | undefined, what: string) =>
    isRole(what) ? namesOf(t, what) : cellOf(t, what);
  const alike = (what: string) =>
    new Set(sheet.treatments.map((t) => valueOf(t, what))).size === 1;
  // What is given can be crossed in where it is one thing, or nothing.
  const roles = (["feed", "additive"] as const).filter((r) =>
    sheet.treatments.every(
      (t) => t.applications.filter((a) => a.role === r).length < 2,
    ),
  );
  const shared = [
    ...roles.map((r) => ({ key: r as string, name: r as string })),
    ...conditions,
  ].filter((c) => alike(c.key));
  const now = key === null ? "" : valueOf(sheet.treatments[0], key);
  if (sheet.treatments.length > 4) {
    return null;
  }
  const cross = () => {
    if (key === null) {
      return;
    }
    commit({
      ...sheet,
      treatments: [
        ...sheet.treatments,
        ...sheet.treatments.map((t) => crossed(t, key, value)),
      ],
    });
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
          id="cross-condition"
          value={key}
          onChange={setKey}
          popupMatchSelectWidth={false}
          options={shared.map((c) => ({ value: c.key, label: c.name }))}
        />
      </label>
      <label className="field">
        <span>{text.match.crossWith(now)}</span>
        <Input
          name="cross-value"
          value={value}
          onChange={(e) => setValue(e.target.value)}
          onPressEnter={() => value.trim() && cross()}
        />
      </label>
      <Button
        disabled={key === null || value.trim() === "" || value.trim() === now}
        onClick={cross}
      >
        {text.match.crossDo(2 * sheet.treatments.length)}
      </Button>
      <button type="button" className="plain" onClick={() => setOpen(false)}>
        {text.match.crossNot}
      </button>
    </span>
  );
}
