import { useSyncExternalStore } from "react";

const narrow = window.matchMedia("(max-width: 760px)");

function subscribe(changed: () => void): () => void {
  narrow.addEventListener("change", changed);
  return () => narrow.removeEventListener("change", changed);
}

/** Whether the page is as narrow as a phone; the same width at which the styles change. */
export function useNarrow(): boolean {
  return useSyncExternalStore(subscribe, () => narrow.matches);
}
