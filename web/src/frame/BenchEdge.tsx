import { useIsMutating, useQuery } from "@tanstack/react-query";
import { useEffect, useState, useSyncExternalStore } from "react";
import { NavLink } from "react-router";
import { isOwn } from "../api/keptRows";
import { outbox } from "../api/outbox";
import { useIsOwner } from "../queries/people";
import { todayQuery } from "../queries/trial";
import { text } from "../text/en";
import { KeptRecords } from "./KeptRecords";
import { saved } from "./saved";
import { Shortcuts } from "./Shortcuts";

/** The edge of the bench: the places one can go, and whether all is saved. */
export function BenchEdge() {
  const today = useQuery(todayQuery);
  const owner = useIsOwner();
  const [help, setHelp] = useState(false);
  useEffect(() => {
    const onKey = (event: KeyboardEvent) => {
      const typing =
        event.target instanceof HTMLElement &&
        /^(INPUT|TEXTAREA|SELECT)$/.test(event.target.tagName);
      if (event.key === "?" && !typing) {
        setHelp((open) => !open);
      }
      if (event.key === "Escape") {
        setHelp(false);
      }
    };
    window.addEventListener("keydown", onKey);
    return () => window.removeEventListener("keydown", onKey);
  }, []);
  const due = today.data?.due.length ?? 0;
  return (
    <>
      {help && <Shortcuts onClose={() => setHelp(false)} />}
      <footer className="edge">
        <nav aria-label={text.frame.places}>
          <NavLink to="/" end>
            {text.frame.today}{" "}
            {due > 0 && <em aria-label={text.frame.dueCount(due)}>{due}</em>}
          </NavLink>
          <NavLink to="/trials" end>
            {text.frame.trials}
          </NavLink>
          <NavLink to="/stores">{text.frame.stores}</NavLink>
          {owner && <NavLink to="/people">{text.frame.people}</NavLink>}
        </nav>
        <SavingState />
        <button
          type="button"
          className="key"
          aria-label={text.frame.shortcuts}
          onClick={() => setHelp(!help)}
        >
          ?
        </button>
      </footer>
    </>
  );
}

function SavingState() {
  const busy = useIsMutating();
  const kept = useSyncExternalStore(outbox.subscribe, outbox.kept);
  const at = useSyncExternalStore(saved.subscribe, saved.at);
  const [open, setOpen] = useState(false);
  const clock = at?.toLocaleTimeString([], {
    hour: "2-digit",
    minute: "2-digit",
  });
  let state: string = clock
    ? text.frame.saved(clock)
    : text.frame.nothingToSave;
  if (busy > 0) {
    state = text.frame.saving;
  }
  const [waiting, refused] = [kept.waiting.length, kept.refused.length];
  // Where only such are left as stepped aside, or are another's to send, the server is there.
  const away = kept.waiting.some((row) => isOwn(row) && !row.aside);
  if (waiting > 0 && kept.unkept) {
    state = text.frame.unkept(waiting);
  } else if (waiting > 0) {
    state = away ? text.frame.kept(waiting) : text.frame.keptAside(waiting);
  }
  return (
    <span className={waiting + refused > 0 ? "device wants" : "device"}>
      <span role="status">{waiting > 0 || refused === 0 ? state : ""}</span>
      {waiting + refused > 0 && (
        <button
          type="button"
          className="plain"
          aria-expanded={open}
          onClick={() => setOpen(!open)}
        >
          {refused > 0
            ? text.frame.refusedLater(refused)
            : text.frame.whatWaits}
        </button>
      )}
      {open && waiting + refused > 0 && (
        <KeptRecords kept={kept} onClose={() => setOpen(false)} />
      )}
    </span>
  );
}
