import { useQuery } from "@tanstack/react-query";
import type { ReactNode } from "react";
import { farmQuery } from "../queries/trial";

export function Head({ title, beside }: { title: string; beside?: ReactNode }) {
  const farm = useQuery(farmQuery);
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
      <div className="farm">{farm.data?.name}</div>
    </header>
  );
}
