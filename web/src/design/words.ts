/** Writes a count with its noun: `count(1, "link")` is "1 link". */
export function count(number: number, noun: string, plural = `${noun}s`): string {
  return `${number} ${number === 1 ? noun : plural}`;
}

const SMALL = ["no", "one", "two", "three", "four", "five", "six", "seven", "eight", "nine", "ten"];

/** Writes a small number as a word, at the start of a heading with a capital. */
export function inWords(number: number, capital = false): string {
  const word = SMALL[number] ?? String(number);
  return capital ? word.charAt(0).toUpperCase() + word.slice(1) : word;
}

/** Heads the findings that need not be mended. */
export const notesInWords = (number: number) =>
  number === 1 ? "One note, which changes nothing" : `${inWords(number, true)} notes, which change nothing`;

/** Writes marks without needless decimals. */
export function marks(value: number): string {
  return String(Math.round(value * 100) / 100);
}

/** Writes a moment in the reader's own form. */
export function moment(iso: string): string {
  return new Date(iso).toLocaleString(undefined, { dateStyle: "medium", timeStyle: "short" });
}

/** Writes a title as it stands within a sentence: small, but for an abbreviation. */
export const inSentence = (title: string) =>
  /^[A-Z]{2}/.test(title) ? title : title.charAt(0).toLowerCase() + title.slice(1);
