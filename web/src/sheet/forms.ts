import type { Schemas } from "../api/client";
import { jsonParts, xmlParts } from "./data";
import { parts, type Part } from "./highlight";

export type Form = Schemas["PaperSheet"]["form"];

/** How a line of each form is divided into words that are set off, and the rest. */
export const PARTS: Record<Form, (line: string) => Part[]> = {
  sheet: parts,
  "yang-json": jsonParts,
  "yang-xml": xmlParts,
  snapshot: (line) => [{ kind: line.startsWith("== ") ? "word" : "value", text: line }],
};

/** The form that a text has by its beginning, as the server sees it. */
export function formOf(text: string): Form {
  const head = text.slice(0, 2048).trimStart();
  if (head.startsWith("zensur snapshot")) return "snapshot";
  if (head.startsWith("{") || head.startsWith("[")) return "yang-json";
  return head.startsWith("<") ? "yang-xml" : "sheet";
}
