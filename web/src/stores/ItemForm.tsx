import { Button, Input, Select } from "antd";
import { useState } from "react";
import type { Schemas } from "../api/client";
import { Trouble } from "../frame/Trouble";
import { typed } from "../marks/number";
import { usePutItem } from "../queries/stores";
import { text } from "../text/en";
import "./stores.css";

type Held = Record<string, string | number>;

interface Props {
  shelf: Schemas["ShelfView"];
  /** What is changed or copied; null for a new one. */
  item: Schemas["ItemView"] | null;
  onClose: () => void;
  /** Told the name of what was kept. */
  onKept?: (name: string) => void;
}

/** An analysis may come in mmol/L, hardness in other degrees: the core turns them into the field's unit. */
const otherUnits = (shelf: string, field: Schemas["Field"]): string => {
  if (shelf !== "waters") {
    return "";
  }
  return field.key === "hardness_dh"
    ? text.stores.hardnessHint
    : field.unit.startsWith("mg/L")
      ? text.stores.mmolHint
      : "";
};

/** An entry's fields in place of its line. A generic entry becomes the grower's own when it is kept. */
export function ItemForm({ shelf, item, onClose, onKept }: Props) {
  const put = usePutItem();
  const [name, setName] = useState(item?.name ?? "");
  const [source, setSource] = useState(item?.id ? (item.source ?? "") : "");
  const [held, setHeld] = useState<Record<string, string>>(
    Object.fromEntries(
      Object.entries(item?.held ?? {}).map(([key, value]) => [
        key,
        String(value),
      ]),
    ),
  );
  const keep = () => {
    const values: Held = {};
    for (const field of shelf.fields) {
      const raw = (held[field.key] ?? "").trim();
      if (raw !== "") {
        const number = typed(raw);
        values[field.key] =
          field.holds.kind === "number" &&
          number !== null &&
          !Number.isNaN(number)
            ? number
            : raw;
      }
    }
    const body = {
      id: item?.id ?? null,
      version: item?.version ?? 0,
      item: { shelf: shelf.key, name, source, held: values },
    };
    put.mutate(body, { onSuccess: () => (onKept?.(name), onClose()) });
  };
  return (
    <form
      className="entry"
      onSubmit={(event) => {
        event.preventDefault();
        keep();
      }}
    >
      <label className="field wide">
        <span>{text.stores.name}</span>
        <Input
          name="entry-name"
          value={name}
          autoFocus
          onChange={(e) => setName(e.target.value)}
        />
      </label>
      <label className="field wide">
        <span>{text.stores.source}</span>
        <Input
          name="entry-source"
          value={source}
          placeholder={text.stores.sourceHint}
          onChange={(e) => setSource(e.target.value)}
        />
      </label>
      {shelf.fields.map((field) => (
        <EntryField
          key={field.key}
          shelf={shelf.key}
          field={field}
          value={held[field.key] ?? ""}
          onValue={(value) => setHeld({ ...held, [field.key]: value })}
        />
      ))}
      <div className="wide acts">
        <Button htmlType="submit" type="primary" loading={put.isPending}>
          {text.stores.save}
        </Button>
        <Button onClick={onClose}>{text.stores.cancel}</Button>
      </div>
      <div className="wide">
        <Trouble error={put.error} />
      </div>
    </form>
  );
}

interface FieldProps {
  shelf: string;
  field: Props["shelf"]["fields"][number];
  value: string;
  onValue: (value: string) => void;
}

/** One figure or word of an entry. */
function EntryField({ shelf, field, value, onValue }: FieldProps) {
  const units = otherUnits(shelf, field);
  return (
    <label className="field">
      <span>
        {field.name}
        {field.unit ? `, ${field.unit}` : ""}
      </span>
      {field.holds.kind === "choice" ? (
        <Select
          id={`entry-${field.key}`}
          allowClear
          placeholder={text.stores.choose}
          value={value || undefined}
          onChange={(chosen) => onValue(chosen ?? "")}
          options={field.holds.of.map((of) => ({ value: of, label: of }))}
        />
      ) : (
        <Input
          name={`entry-${field.key}`}
          value={value}
          type={field.holds.kind === "date" ? "date" : "text"}
          inputMode={
            field.holds.kind === "number" && units === "" ? "decimal" : "text"
          }
          placeholder={units}
          onChange={(e) => onValue(e.target.value)}
        />
      )}
    </label>
  );
}
