/** Texts that are not saved yet, kept in the browser as they are typed. */
export interface Draft {
  base: number;
  text: string;
}

const key = (slug: string) => `zensur draft ${slug}`;

export function readDraft(slug: string): Draft | null {
  try {
    const found = JSON.parse(localStorage.getItem(key(slug)) ?? "null") as Partial<Draft> | null;
    return typeof found?.text === "string" && typeof found.base === "number"
      ? { base: found.base, text: found.text }
      : null;
  } catch {
    return null; // a draft that cannot be read is none
  }
}

export function keepDraft(slug: string, draft: Draft): void {
  try {
    localStorage.setItem(key(slug), JSON.stringify(draft));
  } catch {
    // the browser keeps nothing; the text stays in the editor
  }
}

export const dropDraft = (slug: string) => localStorage.removeItem(key(slug));
