import { useState } from "react";

const kept = new Map<string, unknown>();

/** A state that a view finds again when it is come back to; it is forgotten with the page. */
export function useKept<T>(name: string, initial: T): [T, (value: T) => void] {
  const [value, setValue] = useState<T>(() => (kept.has(name) ? (kept.get(name) as T) : initial));
  return [
    value,
    (next) => {
      kept.set(name, next);
      setValue(next);
    },
  ];
}

/** Has a view find a state when it is come to. */
export const keep = (name: string, value: unknown) => {
  kept.set(name, value);
};
