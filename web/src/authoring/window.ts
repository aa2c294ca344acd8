/** What this window has typed and not saved, and the name under which the server keeps it. */

export interface Kept {
  text: string;
  base: number;
}

const NAME = "zensur window";

/** The name of this window, made up once; a reload keeps it, another window has another. */
export function windowName(): string {
  try {
    const known = sessionStorage.getItem(NAME);
    if (known !== null) return known;
    const made = crypto.randomUUID();
    sessionStorage.setItem(NAME, made);
    return made;
  } catch {
    return "without-storage";
  }
}

const key = (slug: string) => `zensur draft ${slug}`;
const sheetKey = (slug: string) => `zensur sheet ${slug}`;

/** A sheet that was typed and is not yet in the text. */
export interface KeptSheet {
  side: "given" | "answer" | "start";
  device: string;
  text: string;
}

/** Returns what this window has of a lab and has not saved. */
export function readKept(slug: string): Kept | null {
  try {
    const found = JSON.parse(sessionStorage.getItem(key(slug)) ?? "null") as Partial<Kept> | null;
    return typeof found?.text === "string" && typeof found.base === "number"
      ? { text: found.text, base: found.base }
      : null;
  } catch {
    return null; // what cannot be read is not there
  }
}

/** Keeps a text at once, before the server has it: a reload in the middle of typing loses nothing. */
export function keep(slug: string, kept: Kept | null): void {
  try {
    if (kept === null) sessionStorage.removeItem(key(slug));
    else sessionStorage.setItem(key(slug), JSON.stringify(kept));
  } catch {
    // the browser keeps nothing; the server does
  }
}

/** Keeps a sheet as it is typed, until the text of the lab holds it. */
export function keepSheet(slug: string, kept: KeptSheet | null): void {
  try {
    if (kept === null) sessionStorage.removeItem(sheetKey(slug));
    else sessionStorage.setItem(sheetKey(slug), JSON.stringify(kept));
  } catch {
    // it is in the editor, and on its way
  }
}

export function readSheet(slug: string): KeptSheet | null {
  try {
    const found = JSON.parse(sessionStorage.getItem(sheetKey(slug)) ?? "null") as Partial<KeptSheet> | null;
    return found !== null &&
      found.side !== undefined &&
      found.device !== undefined &&
      found.text !== undefined
      ? { side: found.side, device: found.device, text: found.text }
      : null;
  } catch {
    return null;
  }
}
