import type { Key } from "./View";

/** The keys that go up and down in a list of what is `called` so, shown as one. */
export const upDown = (called: string, move: (step: -1 | 1) => void): Key[] => [
  { key: "↑", on: ["ArrowUp"], does: "", run: () => move(-1), hidden: true },
  { key: "↑ ↓", on: ["ArrowDown"], does: called, run: () => move(1) },
];
