import type { Key } from "../design/keys";

/** The keys of a view that edits a text. */
export const useEditorKeys = (save: () => void, seeWeave: () => void, sheet = false): Key[] => [
  { key: "Ctrl+S", on: ["Ctrl+s"], does: "save", run: save },
  { key: "Ctrl+Space", on: [], does: "what fits" },
  { key: "F8", on: [], does: "next remark" },
  { key: "Ctrl+Enter", on: [], does: "mend" },
  { key: "Ctrl+B", on: ["Ctrl+b"], does: "see the weave", hidden: true, run: seeWeave },
  { key: "Ctrl+F", on: [], does: "search and replace", more: true },
  ...(sheet ? [{ key: "F4", on: [], does: "only routes, translations, this block", more: true }] : []),
  { key: "Esc Tab", on: [], does: "leave" },
];
