import { useQuery } from "@tanstack/react-query";
import type { ReactNode } from "react";
import { Link } from "react-router";
import { meQuery, useSignOut } from "../queries/people";
import { farmQuery } from "../queries/trial";
import { text } from "../text/en";
import "../people/people.css";

export function Head({ title, beside }: { title: string; beside?: ReactNode }) {
  const farm = useQuery(farmQuery);
  const me = useQuery(meQuery);
  const out = useSignOut();
  return (
    <header className="head">
      <div className="mark" aria-label="Iron Twin">
        <i />
        <i />
        <b>Iron Twin</b>
      </div>
      <div className="title">
        <h1>{title}</h1>
        <span>{beside}</span>
      </div>
      <Link className="farm" to="/farm">
        {farm.data?.name}
      </Link>
      {me.data?.signed_in && me.data.name && me.data.role && (
        <div className="who">
          {text.people.signedIn(me.data.name, text.people.roles[me.data.role])}{" "}
          <button
            type="button"
            className="plain"
            disabled={out.isPending}
            onClick={() => out.mutate(undefined)}
          >
            {text.people.signOut}
          </button>
        </div>
      )}
    </header>
  );
}
