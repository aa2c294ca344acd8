import { completionKeymap } from "@codemirror/autocomplete";
import { defaultKeymap, history, historyKeymap, indentWithTab } from "@codemirror/commands";
import { yaml } from "@codemirror/lang-yaml";
import { HighlightStyle, syntaxHighlighting } from "@codemirror/language";
import { lintGutter, lintKeymap, setDiagnostics, type Diagnostic } from "@codemirror/lint";
import { search, searchKeymap } from "@codemirror/search";
import { EditorState, Prec, type Extension } from "@codemirror/state";
import { EditorView, highlightActiveLine, keymap, lineNumbers } from "@codemirror/view";
import { tags } from "@lezer/highlight";
import { useEffect, useImperativeHandle, useRef, type Ref } from "react";
import { styleNonce } from "../api/client";
import { completing, type Ask } from "./completion";
import { sheetIndent } from "./indent";
import { explaining, goFrom } from "./explaining";
import { labSheetInk, sheetInk } from "./ink";
import { onlyLines } from "./only";
import { mendInWords, type Remark } from "./remarks";
import "./editor.css";

export interface EditorHandle {
  goTo: (line: number) => void;
  /** Takes over a text that was changed elsewhere: only what differs is changed. */
  follow: (text: string) => void;
  mend: (remark: Remark) => void;
}

interface Props {
  ref: Ref<EditorHandle>;
  language: "lab" | "sheet";
  label: string;
  initial: string;
  remarks: Remark[];
  /** The text that the remarks are about: a mend waits until that is what stands here. */
  about: string;
  onAsk: Ask;
  onChange: (text: string) => void;
  /** The text as it stands elsewhere, where it is changed from there, too. */
  text?: string;
  /** Whether it undoes by itself; else what it stands in does. */
  ownUndo?: boolean;
  /** Says what a word is when the pointer rests on it; null where there is nothing to say. */
  onExplain?: (word: string) => string | null;
  /** Goes to what a word names. */
  onGo?: (word: string) => void;
}

const inks = HighlightStyle.define([
  { tag: tags.propertyName, color: "var(--action)" },
  { tag: tags.comment, color: "var(--ink-soft)", fontStyle: "italic" },
]);

const languages: Record<Props["language"], Extension> = {
  lab: [yaml(), syntaxHighlighting(inks), labSheetInk],
  sheet: [sheetInk, sheetIndent, onlyLines],
};

/** A text in an editor: remarks under their words, mends by one key, completion by what fits. */
export function Editor({
  ref,
  language,
  label,
  initial,
  remarks,
  about,
  onAsk,
  onChange,
  text,
  ownUndo = true,
  onExplain,
  onGo,
}: Props) {
  const host = useRef<HTMLDivElement>(null);
  const view = useRef<EditorView | null>(null);
  const latest = useRef({ onChange, onAsk, remarks, about, onExplain, onGo });
  const wanted = useRef(false);
  const mending = useRef<(at: EditorView) => boolean>(() => false);
  const first = useRef({ initial, language, label, ownUndo });
  useEffect(() => {
    latest.current = { onChange, onAsk, remarks, about, onExplain, onGo };
  });
  useEffect(() => {
    if (host.current === null) return;
    const mendHere = (at: EditorView) => {
      wanted.current = !isAbout(at, latest.current.about);
      if (wanted.current) return true;
      const line = at.state.doc.lineAt(at.state.selection.main.head).number;
      const remark = latest.current.remarks.find((r) => r.line === line && r.mend !== null);
      if (remark) mend(at, remark);
      return true;
    };
    const made = new EditorView({
      parent: host.current,
      state: EditorState.create({
        doc: first.current.initial,
        extensions: [
          EditorView.cspNonce.of(styleNonce),
          lineNumbers(),
          first.current.ownUndo ? [history(), keymap.of(historyKeymap)] : [],
          explaining((word) => latest.current.onExplain?.(word) ?? null),
          keymap.of([{ key: "F12", run: (at) => goFrom(at, (word) => latest.current.onGo?.(word)) }]),
          highlightActiveLine(),
          lintGutter(),
          languages[first.current.language],
          completing((text, line, column) => latest.current.onAsk(text, line, column)),
          EditorView.lineWrapping,
          search({ top: true }),
          EditorView.contentAttributes.of({ "aria-label": first.current.label, tabindex: "0" }),
          Prec.high(keymap.of([{ key: "Mod-Enter", run: mendHere }])),
          keymap.of([...searchKeymap, ...completionKeymap, ...lintKeymap, ...defaultKeymap, indentWithTab]),
          EditorView.updateListener.of((update) => {
            if (update.docChanged) latest.current.onChange(update.state.doc.toString());
          }),
        ],
      }),
    });
    view.current = made;
    mending.current = mendHere;
    made.focus();
    return () => made.destroy();
  }, []);
  useEffect(() => {
    const made = view.current;
    if (made === null) return;
    made.dispatch(setDiagnostics(made.state, remarks.map(diagnosticIn(made))));
    if (wanted.current && isAbout(made, about)) mending.current(made);
  }, [remarks, about]);
  useEffect(() => {
    const made = view.current;
    const change = made && text !== undefined && difference(made.state.doc.toString(), text);
    if (change) made.dispatch({ changes: change });
  }, [text]);
  useImperativeHandle(ref, () => ({
    goTo: (number) => {
      const made = view.current;
      if (made === null) return;
      const { from } = lineOf(made, number);
      made.dispatch({
        selection: { anchor: from },
        effects: EditorView.scrollIntoView(from, { y: "center" }),
      });
      made.focus();
    },
    follow: (text) => {
      const made = view.current;
      const change = made && difference(made.state.doc.toString(), text);
      if (change) made.dispatch({ changes: change });
    },
    mend: (remark) => {
      if (view.current === null || !isAbout(view.current, latest.current.about)) return;
      mend(view.current, remark);
      view.current.focus();
    },
  }));
  return <div ref={host} className="editor" />;
}

const isAbout = (view: EditorView, about: string) => view.state.doc.toString().trimEnd() === about.trimEnd();

/** The one stretch in which two texts differ; null where they do not. */
function difference(before: string, after: string) {
  if (before === after) return null;
  let from = 0;
  while (from < before.length && before[from] === after[from]) from++;
  let end = 0;
  const most = Math.min(before.length, after.length) - from;
  while (end < most && before[before.length - 1 - end] === after[after.length - 1 - end]) end++;
  return { from, to: before.length - end, insert: after.slice(from, after.length - end) };
}

const lineOf = (view: EditorView, number: number) =>
  view.state.doc.line(Math.min(Math.max(number, 1), view.state.doc.lines));

/** Columns count from 1, both included; what reaches beyond the line ends with it. */
function span(view: EditorView, { line, column, end }: { line: number; column: number; end: number }) {
  const there = lineOf(view, line);
  const from = Math.min(there.from + Math.max(column - 1, 0), there.to);
  return { from, to: Math.min(Math.max(there.from + end, from), there.to) };
}

function mend(view: EditorView, remark: Remark) {
  if (remark.mend === null) return;
  view.dispatch({ changes: { ...span(view, remark.mend), insert: remark.mend.text } });
}

const diagnosticIn =
  (view: EditorView) =>
  (remark: Remark): Diagnostic => ({
    ...span(view, remark),
    severity: remark.severity === "note" ? "info" : remark.severity,
    message: remark.message,
    actions:
      remark.mend === null
        ? []
        : [{ name: `Mend: ${mendInWords(remark.mend)}`, apply: (at) => mend(at, remark) }],
  });
