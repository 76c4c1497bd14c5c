import { useState } from "react";

/**
 * Fields that are typed in and taken when they are left. What is known anew replaces what stands in a field, but for one
 * in which somebody is typing: an answer to the field before must not take away the next.
 */
export function useFields<K extends string>(known: Record<K, string>) {
  const keys = Object.keys(known) as K[];
  const [typed, setTyped] = useState<Partial<Record<K, string>>>({});
  const [taken, setTaken] = useState(known);
  const [seen, setSeen] = useState(known);
  const anew = keys.filter((key) => known[key] !== seen[key]);
  if (anew.length > 0) {
    setSeen(known);
    setTaken({
      ...taken,
      ...Object.fromEntries(anew.map((key) => [key, known[key]])),
    });
  }
  const draft: Record<K, string> = { ...taken, ...typed };
  return {
    /** What stands in each. */
    draft,
    type: (key: K, value: string) => setTyped({ ...typed, [key]: value }),
    /** What stands there was sent. */
    take: () => {
      setTaken(draft);
      setTyped({});
    },
  };
}
