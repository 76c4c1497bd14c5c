import { useQuery } from "@tanstack/react-query";
import { Button, Input, Select } from "antd";
import { useState } from "react";
import type { Schemas } from "../api/client";
import { Head } from "../frame/Head";
import { Trouble } from "../frame/Trouble";
import {
  peopleQuery,
  useAddPerson,
  useAskHere,
  useRemovePerson,
} from "../queries/people";
import { text } from "../text/en";
import "./people.css";

type Role = Schemas["RoleSent"];

/** Who may sign in, and as what. */
export default function People() {
  const people = useQuery(peopleQuery);
  const remove = useRemovePerson();
  const askHere = useAskHere();
  const list = people.data?.people ?? [];
  if (people.error) {
    return (
      <>
        <Head title={text.people.title} />
        <main className="sheet alone people">
          <Trouble error={people.error} />
        </main>
      </>
    );
  }
  return (
    <>
      <Head title={text.people.title} />
      <main className="sheet alone people">
        <p className="lead">
          {list.length === 0 ? text.people.none : text.people.lead}
        </p>
        <ul className="entries">
          {list.map((person) => (
            <li key={person.id}>
              <div>
                <b>{person.name}</b>, {text.people.roles[person.role]}
                <p className="soft">{text.people.may[person.role]}</p>
              </div>
              <button
                type="button"
                className="plain"
                disabled={remove.isPending}
                aria-label={`${text.people.takeOut}: ${person.name}`}
                onClick={() => remove.mutate(person.id)}
              >
                {text.people.takeOut}
              </button>
            </li>
          ))}
        </ul>
        <Trouble error={remove.error} />
        <Adding first={list.length === 0} />
        {list.length > 0 && (
          <p className="here">
            <label>
              <input
                type="checkbox"
                name="ask-here"
                checked={people.data?.ask_here ?? false}
                disabled={askHere.isPending}
                onChange={(e) => askHere.mutate(e.target.checked)}
              />{" "}
              {text.people.askHere}
            </label>
          </p>
        )}
        <Trouble error={askHere.error} />
        <p className="soft">{text.people.network}</p>
      </main>
    </>
  );
}

function Adding({ first }: { first: boolean }) {
  const add = useAddPerson();
  const [name, setName] = useState("");
  const [passphrase, setPassphrase] = useState("");
  const [chosen, setChosen] = useState<Role>("recorder");
  const role = first ? "owner" : chosen;
  return (
    <form
      className="add-person"
      onSubmit={(event) => {
        event.preventDefault();
        add.mutate(
          { name, role, passphrase },
          {
            onSuccess: () => {
              setName("");
              setPassphrase("");
            },
          },
        );
      }}
    >
      <label className="field">
        <span>{text.people.name}</span>
        <Input
          name="person"
          value={name}
          onChange={(e) => setName(e.target.value)}
        />
      </label>
      <label className="field">
        <span>{text.people.role}</span>
        <Select
          id="role"
          value={role}
          disabled={first}
          onChange={setChosen}
          options={Object.entries(text.people.roles).map(([value, label]) => ({
            value: value as Role,
            label,
          }))}
        />
      </label>
      <label className="field">
        <span>{text.people.newPassphrase}</span>
        <Input
          name="passphrase"
          type="password"
          autoComplete="new-password"
          value={passphrase}
          onChange={(e) => setPassphrase(e.target.value)}
        />
      </label>
      <Button htmlType="submit" type="primary" loading={add.isPending}>
        {text.people.add}
      </Button>
      <Trouble error={add.error} />
    </form>
  );
}
