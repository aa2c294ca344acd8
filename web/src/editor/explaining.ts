import type { EditorState, Extension } from "@codemirror/state";
import { hoverTooltip, type EditorView } from "@codemirror/view";

/** The word at a place, with what an address may hold. */
function wordAt(state: EditorState, at: number): { from: number; to: number; word: string } | null {
  const line = state.doc.lineAt(at);
  for (const found of line.text.matchAll(/[\w.:/-]+/g)) {
    const from = line.from + found.index;
    const to = from + found[0].length;
    if (at >= from && at <= to) return { from, to, word: found[0] };
  }
  return null;
}

/** Says what a word is while the pointer rests on it. */
export const explaining = (explain: (word: string) => string | null): Extension =>
  hoverTooltip((view, at) => {
    const here = wordAt(view.state, at);
    const said = here && explain(here.word);
    if (here === null || said === null || said === "") return null;
    return {
      pos: here.from,
      end: here.to,
      above: true,
      create: () => {
        const dom = document.createElement("div");
        dom.className = "explained";
        dom.textContent = said;
        return { dom };
      },
    };
  });

/** Goes to what the word at the cursor names. */
export function goFrom(view: EditorView, go: (word: string) => void): boolean {
  const here = wordAt(view.state, view.state.selection.main.head);
  if (here !== null) go(here.word);
  return true;
}
