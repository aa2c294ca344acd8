/** A key of the view with what it does: shown at the foot, and with `?` in full. */
export interface Key {
  key: string;
  does: string;
  run?: () => void;
  /** The keyboard's own names for the key where they are not `key`. */
  on?: string[];
  /** Whether it is left out of the lists, because another entry stands for it. */
  hidden?: boolean;
  /** Whether it stands with the others behind `?`, and not at the foot. */
  more?: boolean;
}

/** The keys that go up and down in a list of what is `called` so, shown as one. */
export const upDown = (called: string, move: (step: -1 | 1) => void): Key[] => [
  { key: "↑", on: ["ArrowUp"], does: "", run: () => move(-1), hidden: true },
  { key: "↑ ↓", on: ["ArrowDown"], does: called, run: () => move(1) },
];
