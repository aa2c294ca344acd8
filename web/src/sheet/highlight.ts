import words from "./words.json";

export interface Part {
  text: string;
  kind: "word" | "value" | "note";
}

const FIRST = new Set([...words.headers, ...words.statements]);
const INSIDE = new Set(words.inside);
const TEXT = new Set(words.text);

/** Divides a line of a sheet into words of the language, values and comments. */
export function parts(line: string): Part[] {
  const found: Part[] = [];
  let first = true;
  let text = false;
  for (const token of line.match(/#.*|"(?:\\.|[^"])*"|[^\s#]+|\s+/g) ?? []) {
    if (token.startsWith("#")) found.push({ text: token, kind: "note" });
    else if (token.trim() === "") found.push({ text: token, kind: "value" });
    else {
      const word = token.toLowerCase();
      const known: boolean = !text && (first ? FIRST.has(word) : INSIDE.has(word) || TEXT.has(word));
      found.push({ text: token, kind: known ? "word" : "value" });
      text ||= known && TEXT.has(word);
      first = false;
    }
  }
  return found;
}
