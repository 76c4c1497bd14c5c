import { useQuery } from "@tanstack/react-query";
import { Button, Input } from "antd";
import { useState } from "react";
import { NavLink, useParams } from "react-router";
import type { Schemas } from "../api/client";
import { Head } from "../frame/Head";
import { NotHere, Trouble } from "../frame/Trouble";
import {
  storesQuery,
  useImport,
  useRemoveItem,
  useShelfUndo,
} from "../queries/stores";
import { text } from "../text/en";
import { ItemForm } from "./ItemForm";
import "./stores.css";

type Shelf = Schemas["ShelfView"];
type Item = Schemas["ItemView"];

export default function Stores() {
  const { shelf: key } = useParams();
  const stores = useQuery(storesQuery);
  const shelf = stores.data?.find((s) => s.key === key);
  if (stores.data && !shelf) {
    return <NotHere />;
  }
  return (
    <>
      <Head title={text.stores.title} />
      <main className="sheet alone stores">
        <Trouble error={stores.error} />
        <nav aria-label={text.stores.shelves}>
          {(stores.data ?? []).map((s) => (
            <NavLink key={s.key} to={`/stores/${s.key}`}>
              {s.name} <small>{s.items.length}</small>
            </NavLink>
          ))}
        </nav>
        {shelf && <ShelfPage key={shelf.key} shelf={shelf} />}
      </main>
    </>
  );
}

function ShelfPage({ shelf }: { shelf: Shelf }) {
  const [edited, setEdited] = useState<Item | "new" | null>(null);
  const [find, setFind] = useState("");
  const remove = useRemoveItem();
  const undo = useShelfUndo();
  const wanted = find.trim().toLowerCase();
  const items = shelf.items.filter((i) =>
    i.name.toLowerCase().includes(wanted),
  );
  return (
    <section>
      <p className="lead">{text.stores.lead(shelf.name)}</p>
      <div className="tools">
        <Button type="primary" onClick={() => setEdited("new")}>
          {text.stores.add(shelf.one)}
        </Button>
        <Input
          className="find"
          name="find"
          value={find}
          placeholder={text.stores.find}
          aria-label={text.stores.find}
          onChange={(e) => setFind(e.target.value)}
        />
        <TakeIn shelf={shelf} />
        <a href={`/api/v1/stores/${shelf.key}/export.csv`} download>
          {text.stores.exportCsv}
        </a>
        <button
          type="button"
          className="plain"
          disabled={undo.isPending}
          onClick={() => undo.mutate()}
        >
          {text.stores.undo}
        </button>
      </div>
      {undo.data && <p role="status">{text.stores.undone(undo.data.action)}</p>}
      <Trouble error={remove.error ?? undo.error} />
      {edited === "new" && (
        <ItemForm shelf={shelf} item={null} onClose={() => setEdited(null)} />
      )}
      {items.length === 0 && (
        <p className="soft">{text.stores.nothing(shelf.name.toLowerCase())}</p>
      )}
      <ul className="entries">
        {items.map((item) => (
          <li key={item.id ?? `generic ${item.name}`}>
            {edited !== null &&
            edited !== "new" &&
            edited.name === item.name ? (
              <ItemForm
                shelf={shelf}
                item={item}
                onClose={() => setEdited(null)}
              />
            ) : (
              <Entry
                shelf={shelf}
                item={item}
                onEdit={() => setEdited(item)}
                remove={remove}
              />
            )}
          </li>
        ))}
      </ul>
      {(shelf.key === "salts" ||
        shelf.key === "feeds" ||
        shelf.key === "additives") && (
        <p className="caution">{text.stores.caution}</p>
      )}
    </section>
  );
}

interface EntryProps {
  shelf: Shelf;
  item: Item;
  onEdit: () => void;
  remove: ReturnType<typeof useRemoveItem>;
}

/** An entry as it stands, and what can be done with it. */
function Entry({ shelf, item, onEdit, remove }: EntryProps) {
  return (
    <>
      <div>
        <b>{item.name}</b>{" "}
        <span className={item.id ? "own" : "soft"}>
          {item.id ? text.stores.own : text.stores.generic}
        </span>
        <p>{figures(shelf, item)}</p>
        {item.source && <p className="soft">{item.source}</p>}
      </div>
      <div className="acts">
        <button
          type="button"
          className="plain"
          onClick={onEdit}
          aria-label={`${item.id ? text.stores.edit : text.stores.copy}: ${item.name}`}
        >
          {item.id ? text.stores.edit : text.stores.copy}
        </button>
        {item.id && (
          <button
            type="button"
            className="plain"
            disabled={remove.isPending}
            aria-label={`${text.stores.remove}: ${item.name}`}
            onClick={() =>
              item.id && remove.mutate({ id: item.id, version: item.version })
            }
          >
            {text.stores.remove}
          </button>
        )}
      </div>
    </>
  );
}

/** What is known of an entry, in one line. Figures of nothing are left out. */
function figures(shelf: Shelf, item: Item): string {
  return shelf.fields
    .flatMap((field) => {
      const held = item.held?.[field.key];
      if (held === undefined || held === 0) {
        return [];
      }
      const unit =
        field.unit === "%" ? " %" : field.unit ? ` ${field.unit}` : "";
      return [`${field.name} ${held}${unit}`];
    })
    .join(" · ");
}

function TakeIn({ shelf }: { shelf: Shelf }) {
  const take = useImport();
  return (
    <>
      <label className="plain file">
        {text.stores.importCsv}
        <input
          type="file"
          accept=".csv,text/csv"
          name="csv"
          onChange={(e) => {
            const file = e.target.files?.[0];
            e.target.value = "";
            void file
              ?.text()
              .then((csv) => take.mutate({ shelf: shelf.key, csv }));
          }}
        />
      </label>
      {take.error !== null && <Trouble error={take.error} />}
    </>
  );
}
