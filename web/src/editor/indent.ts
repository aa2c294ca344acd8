import { Prec, type Extension } from "@codemirror/state";
import { EditorView, keymap } from "@codemirror/view";
import words from "../sheet/words.json";

const HEADERS = new Set(words.headers);
const TOP = new Set(words.top);
const INDENT = "  ";

/** Starts a line where a person expects it: indented below a header and within its block, out of it after a blank one. */
function newLine(view: EditorView): boolean {
  const { state } = view;
  const { head, empty } = state.selection.main;
  const line = state.doc.lineAt(head);
  if (!empty) return false;
  if (line.text.trim() === "" && line.text !== "") {
    view.dispatch({ changes: { from: line.from, to: line.to }, userEvent: "input" });
    return true;
  }
  const before = line.text.slice(0, head - line.from);
  const first = before.trimStart().split(/\s/)[0]?.toLowerCase() ?? "";
  const opens = !/^\s/.test(before) && HEADERS.has(first) && first !== "device";
  const indent = opens || (/^\s+\S/.test(before) ? true : false) ? INDENT : "";
  view.dispatch({
    changes: { from: head, insert: `\n${indent}` },
    selection: { anchor: head + 1 + indent.length },
    scrollIntoView: true,
    userEvent: "input",
  });
  return true;
}

/** Takes the indent away where the first word of a line can stand in the first column only. */
const outdented = EditorView.inputHandler.of((view, from, to, text) => {
  if (text !== " " || from !== to) return false;
  const line = view.state.doc.lineAt(from);
  const before = line.text.slice(0, from - line.from);
  const found = /^(\s+)(\S+)$/.exec(before);
  const word = found?.[2]?.toLowerCase() ?? "";
  if (found === null || !(TOP.has(word) || (HEADERS.has(word) && word !== "device"))) return false;
  const blanks = found[1]?.length ?? 0;
  view.dispatch({
    changes: [
      { from: line.from, to: line.from + blanks },
      { from, insert: " " },
    ],
    selection: { anchor: from - blanks + 1 },
    userEvent: "input.type",
  });
  return true;
});

/** Indents a sheet as it is typed. */
export const sheetIndent: Extension = [outdented, Prec.high(keymap.of([{ key: "Enter", run: newLine }]))];
