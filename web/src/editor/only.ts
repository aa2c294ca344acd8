import { EditorState, RangeSetBuilder, StateEffect, StateField, type Extension } from "@codemirror/state";
import { Decoration, EditorView, keymap, type DecorationSet } from "@codemirror/view";

/** Which lines of a sheet are shown: all, the routes, the translations, or the block at the cursor. */
type Shown = "all" | "routes" | "translations" | "block";
const TURNS: Shown[] = ["all", "routes", "translations", "block"];
const ROUTES = /^(route|gateway|rip)\b/i;
const TRANSLATIONS = /^(translate|pool|addresses)\b/i;

const turned = StateEffect.define<{ shown: Shown; line: number }>();

/** Tells which lines are shown; lines of a block go with its header. */
function linesShown(state: EditorState, shown: Shown, at: number): boolean[] {
  const heads: number[] = [];
  for (let n = 1, head = 1; n <= state.doc.lines; n++) {
    const text = state.doc.line(n).text;
    if (/^\S/.test(text)) head = n;
    heads.push(head);
  }
  return heads.map((head, n) => {
    const text = state.doc.line(head).text;
    if (shown === "routes") return ROUTES.test(text);
    if (shown === "translations")
      return TRANSLATIONS.test(text) || / realm /.test(` ${state.doc.line(n + 1).text.trim()} `);
    return shown === "all" || head === heads[at - 1];
  });
}

function hidden(state: EditorState, shown: Shown, at: number): DecorationSet {
  const builder = new RangeSetBuilder<Decoration>();
  if (shown !== "all") {
    const kept = linesShown(state, shown, at);
    for (let n = 0; n < kept.length;) {
      if (kept[n]) {
        n++;
        continue;
      }
      const first = n;
      while (n < kept.length && !kept[n]) n++;
      builder.add(state.doc.line(first + 1).from, state.doc.line(n).to, Decoration.replace({ block: true }));
    }
  }
  return builder.finish();
}

const field = StateField.define<{ shown: Shown; lines: DecorationSet }>({
  create: () => ({ shown: "all", lines: Decoration.none }),
  update: (value, change) => {
    for (const effect of change.effects)
      if (effect.is(turned))
        return {
          shown: effect.value.shown,
          lines: hidden(change.state, effect.value.shown, effect.value.line),
        };
    return change.docChanged ? { ...value, lines: value.lines.map(change.changes) } : value;
  },
  provide: (own) => EditorView.decorations.from(own, (value) => value.lines),
});

/** Turns to the next choice of lines, leaving out those of which the sheet has none. */
function turn(view: EditorView): boolean {
  const { state } = view;
  const now = state.field(field).shown;
  const line = state.doc.lineAt(state.selection.main.head).number;
  for (let step = 1; step <= TURNS.length; step++) {
    const shown = TURNS[(TURNS.indexOf(now) + step) % TURNS.length] ?? "all";
    if (linesShown(state, shown, line).some(Boolean)) {
      view.dispatch({ effects: turned.of({ shown, line }) });
      return true;
    }
  }
  return true;
}

/** F4 shows only the routes of a sheet, only its translations, only the block at the cursor, and all of it again. */
export const onlyLines: Extension = [field, keymap.of([{ key: "F4", run: turn }])];
