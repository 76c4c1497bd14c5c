import { useQuery } from "@tanstack/react-query";
import { Button, Input, Select } from "antd";
import { useState } from "react";
import type { Schemas, TrialView } from "../../../api/client";
import { Trouble } from "../../../frame/Trouble";
import { shown } from "../../../marks/number";
import { Wide } from "../../../marks/Wide";
import {
  previewQuery,
  useGiveLogUp,
  useTakeLogIn,
} from "../../../queries/tracks";
import { text } from "../../../text/en";
import { timeExample } from "../../../text/tracks";

type Mapping = Schemas["Mapping"];
type Column = Schemas["ColumnUse"];
type Known = Schemas["LoggersView"];

interface Props {
  trial: TrialView;
  brought: Schemas["LoggerBrought"];
  known: Known;
}

/** Says how a file is read: what each column holds, where its probe was, and how the times are meant. */
export function LogMapping({ trial, brought, known }: Props) {
  const words = text.loggers;
  const [mapping, setMapping] = useState<Mapping>(brought.mapping);
  const takeIn = useTakeLogIn(trial.id);
  const giveUp = useGiveLogUp(trial.id);
  const { token, name } = brought.file;
  return (
    <div className="log-mapping">
      <h3>{words.wait(name)}</h3>
      {brought.remembered && <p className="soft">{words.remembered}</p>}
      <Times brought={brought} mapping={mapping} change={setMapping} />
      <Columns
        brought={brought}
        known={known}
        mapping={mapping}
        change={setMapping}
      />
      <Preview trial={trial.id} token={token} known={known} mapping={mapping} />
      <Trouble error={takeIn.error ?? giveUp.error} />
      <div className="row">
        <Button
          type="primary"
          loading={takeIn.isPending}
          disabled={mapping.columns.length === 0}
          onClick={() => takeIn.mutate({ token, mapping })}
        >
          {words.takeIn}
        </Button>
        <Button onClick={() => giveUp.mutate(token)}>{words.discard}</Button>
      </div>
    </div>
  );
}

interface PartProps {
  brought: Schemas["LoggerBrought"];
  mapping: Mapping;
  change: (mapping: Mapping) => void;
}

function Times({ brought, mapping, change }: PartProps) {
  const words = text.loggers;
  const { formats } = brought.layout;
  return (
    <>
      <div className="row">
        <label className="field">
          <span>{words.format}</span>
          <Select
            value={mapping.format}
            aria-label={words.format}
            onChange={(format) => change({ ...mapping, format })}
            options={formats.map((format) => ({
              value: format,
              label: timeExample(format),
            }))}
          />
        </label>
        <label className="field">
          <span>{words.zone}</span>
          <Input
            name="zone"
            value={mapping.zone}
            placeholder={words.zoneHint}
            onChange={(e) =>
              change({ ...mapping, zone: e.target.value.trim() })
            }
          />
        </label>
      </div>
      {formats.length > 1 && <p className="wrong-rhythm">{words.ambiguous}</p>}
    </>
  );
}

const placeKey = (place: Column["place"]) => JSON.stringify(place);

function Columns({
  brought,
  known,
  mapping,
  change,
}: PartProps & { known: Known }) {
  const words = text.loggers;
  const free = brought.layout.columns
    .map((column, index) => ({ ...column, index }))
    .filter(
      (c) =>
        c.index !== mapping.time &&
        c.index !== mapping.time_of_day &&
        (c.numbers || mapping.columns.some((m) => m.column === c.index)),
    );
  return (
    <table className="log-columns">
      <thead>
        <tr>
          {[words.column, words.holds, words.unit, words.place].map((h) => (
            <th key={h} scope="col">
              {h}
            </th>
          ))}
        </tr>
      </thead>
      <tbody>
        {free.map((column) => (
          <ColumnRow
            key={column.index}
            heading={column.heading || `${column.index + 1}`}
            index={column.index}
            known={known}
            mapping={mapping}
            change={change}
          />
        ))}
      </tbody>
    </table>
  );
}

interface RowProps {
  heading: string;
  index: number;
  known: Known;
  mapping: Mapping;
  change: (mapping: Mapping) => void;
}

function ColumnRow({ heading, index, known, mapping, change }: RowProps) {
  const words = text.loggers;
  const own = mapping.columns.find((c) => c.column === index);
  const put = (next: Column | null) => {
    const others = mapping.columns.filter((c) => c.column !== index);
    change({
      ...mapping,
      columns: next
        ? [...others, next].sort((a, b) => a.column - b.column)
        : others,
    });
  };
  const units =
    known.quantities.find((q) => q.quantity === own?.quantity)?.units ?? [];
  const choose = (quantity: Schemas["LoggedQuantity"] | "") => {
    const unit =
      known.quantities.find((q) => q.quantity === quantity)?.units[0]?.sign ??
      "";
    put(
      quantity === ""
        ? null
        : { column: index, quantity, unit, place: own?.place ?? "room" },
    );
  };
  return (
    <tr>
      <th scope="row">{heading}</th>
      <td>
        <Select
          value={own?.quantity ?? ""}
          aria-label={`${heading}: ${words.holds}`}
          onChange={choose}
          popupMatchSelectWidth={false}
          options={[
            { value: "" as const, label: words.nothing },
            ...known.quantities.map((q) => ({
              value: q.quantity,
              label: q.name,
            })),
          ]}
        />
      </td>
      <td>
        {own && units.length > 1 && (
          <Select
            value={own.unit ?? ""}
            aria-label={`${heading}: ${words.unit}`}
            onChange={(unit) => put({ ...own, unit })}
            options={units.map((u) => ({ value: u.sign, label: u.sign }))}
          />
        )}
        {own && units.length === 1 && units[0]?.sign}
      </td>
      <td>
        {own && (
          <Select
            showSearch
            value={placeKey(own.place)}
            aria-label={`${heading}: ${words.place}`}
            optionFilterProp="label"
            onChange={(place) =>
              put({ ...own, place: JSON.parse(place) as Column["place"] })
            }
            options={known.places.map((p) => ({
              value: placeKey(p.place),
              label: p.name,
            }))}
          />
        )}
      </td>
    </tr>
  );
}

/** The first rows and the last as they would be read. */
function Preview({
  trial,
  token,
  known,
  mapping,
}: {
  trial: string;
  token: string;
  known: Known;
  mapping: Mapping;
}) {
  const words = text.loggers;
  const found = useQuery({
    ...previewQuery(trial, token, mapping),
    enabled: mapping.columns.length > 0,
  });
  if (found.error) {
    return <Trouble error={found.error} />;
  }
  const view = found.data;
  if (!view || mapping.columns.length === 0) {
    return null;
  }
  const nameOf = (column: Column) =>
    known.quantities.find((q) => q.quantity === column.quantity);
  const cut = view.last.length > 0;
  const width = mapping.columns.length;
  const row = (r: Schemas["LoggerReadRow"], key: string) => (
    <tr key={key}>
      <td>{r.at ?? ""}</td>
      {r.why ? (
        <td colSpan={width} className="why">
          {r.why}
        </td>
      ) : (
        r.values.map((v, i) => <td key={i}>{shown(v, 2)}</td>)
      )}
    </tr>
  );
  return (
    <Wide className="log-preview" name={words.read}>
      <table>
        <caption>{words.read}</caption>
        <thead>
          <tr>
            <th scope="col">
              {words.time}, {words.readTime}
            </th>
            {mapping.columns.map((c) => (
              <th key={c.column} scope="col">
                {nameOf(c)?.name} {nameOf(c)?.units[0]?.sign}
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {view.first.map((r, i) => row(r, `f${i}`))}
          {cut && (
            <tr>
              <td colSpan={width + 1}>{words.dots}</td>
            </tr>
          )}
          {view.last.map((r, i) => row(r, `l${i}`))}
        </tbody>
      </table>
    </Wide>
  );
}
