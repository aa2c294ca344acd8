/** Texts that are not saved yet, kept in the browser as they are typed. */
export interface Draft {
  base: number;
  text: string;
}

const key = (what: string) => `zensur draft ${what}`;

/** Returns what was kept of a text, such as `four-gates` for a lab or `four-gates answer weir` for a sheet. */
export function readDraft(what: string): Draft | null {
  try {
    const found = JSON.parse(localStorage.getItem(key(what)) ?? "null") as Partial<Draft> | null;
    return typeof found?.text === "string" && typeof found.base === "number"
      ? { base: found.base, text: found.text }
      : null;
  } catch {
    return null; // a draft that cannot be read is none
  }
}

export function keepDraft(what: string, draft: Draft): void {
  try {
    localStorage.setItem(key(what), JSON.stringify(draft));
  } catch {
    // the browser keeps nothing; the text stays in the editor
  }
}

export const dropDraft = (what: string) => localStorage.removeItem(key(what));
