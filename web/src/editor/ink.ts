import { syntaxTree } from "@codemirror/language";
import { RangeSetBuilder, type Extension } from "@codemirror/state";
import { Decoration, EditorView, ViewPlugin, type DecorationSet, type ViewUpdate } from "@codemirror/view";
import { formOf, PARTS } from "../sheet/forms";
import { parts, type Part } from "../sheet/highlight";

const marks = {
  word: Decoration.mark({ class: "word" }),
  note: Decoration.mark({ class: "note" }),
};

/** Where the sheets of a document are: all of it, or the literal blocks of a lab file but its briefs. */
type Where = (view: EditorView, from: number, to: number) => { from: number; to: number }[];

const everything: Where = (_, from, to) => [{ from, to }];

const literalBlocks: Where = (view, from, to) => {
  const found: { from: number; to: number }[] = [];
  syntaxTree(view.state).iterate({
    from,
    to,
    enter: (node) => {
      if (node.name !== "BlockLiteralContent") return;
      const key = node.node.parent?.parent?.getChild("Key");
      if (key && view.state.sliceDoc(key.from, key.to) === "brief") return;
      found.push({ from: Math.max(node.from, from), to: Math.min(node.to, to) });
    },
  });
  return found;
};

/** How the lines of a document are divided. */
type Divide = (view: EditorView) => (line: string) => Part[];

function inked(view: EditorView, where: Where, divide: Divide): DecorationSet {
  const divided = divide(view);
  const builder = new RangeSetBuilder<Decoration>();
  for (const visible of view.visibleRanges)
    for (const { from, to } of where(view, visible.from, visible.to))
      for (let at = from; at <= to;) {
        const line = view.state.doc.lineAt(at);
        let column = line.from;
        for (const part of divided(line.text)) {
          const end = column + part.text.length;
          if (part.kind !== "value" && column >= from && end <= to)
            builder.add(column, end, marks[part.kind]);
          column = end;
        }
        at = line.to + 1;
      }
  return builder.finish();
}

function ink(where: Where, divide: Divide): Extension {
  return ViewPlugin.fromClass(
    class {
      decorations: DecorationSet;
      constructor(view: EditorView) {
        this.decorations = inked(view, where, divide);
      }
      update(update: ViewUpdate) {
        if (
          update.docChanged ||
          update.viewportChanged ||
          syntaxTree(update.startState) !== syntaxTree(update.state)
        )
          this.decorations = inked(update.view, where, divide);
      }
    },
    { decorations: (plugin) => plugin.decorations },
  );
}

/** Sets off the words of a configuration, in whatever form it is. */
export const sheetInk = ink(everything, (view) => PARTS[formOf(view.state.sliceDoc(0, 2048))]);

/** The same in the sheets of a lab file. */
export const labSheetInk = ink(literalBlocks, () => parts);
