import { useState } from "react";

/** A choice out of a few that this browser keeps. */
export function useChoice<T extends string>(
  name: string,
  all: readonly T[],
  usual: T,
): [T, (value: T) => void] {
  const [value, setValue] = useState<T>(() => {
    const kept = read(name);
    return all.find((one) => one === kept) ?? usual;
  });
  const choose = (next: T) => {
    setValue(next);
    try {
      localStorage.setItem(name, next);
    } catch {
      // A browser that keeps nothing: it holds until the page is closed.
    }
  };
  return [value, choose];
}

function read(name: string): string | null {
  try {
    return localStorage.getItem(name);
  } catch {
    return null;
  }
}
