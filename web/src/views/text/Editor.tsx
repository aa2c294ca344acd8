import { defaultKeymap, history, historyKeymap, indentWithTab } from "@codemirror/commands";
import { yaml } from "@codemirror/lang-yaml";
import { HighlightStyle, syntaxHighlighting } from "@codemirror/language";
import { lintGutter, setDiagnostics, type Diagnostic } from "@codemirror/lint";
import { EditorState } from "@codemirror/state";
import { EditorView, keymap, lineNumbers, highlightActiveLine } from "@codemirror/view";
import { tags } from "@lezer/highlight";
import { useEffect, useImperativeHandle, useRef, type Ref } from "react";
import { styleNonce, type Schemas } from "../../api/client";
import "./editor.css";

export interface EditorHandle {
  goTo: (line: number) => void;
  replace: (text: string) => void;
}

interface Props {
  ref: Ref<EditorHandle>;
  initial: string;
  places: Schemas["ErrorPlace"][];
  onChange: (text: string) => void;
  onSave: () => void;
}

const inks = HighlightStyle.define([
  { tag: tags.propertyName, color: "var(--action)" },
  { tag: tags.comment, color: "var(--ink-soft)", fontStyle: "italic" },
]);

/** The lab's text in an editor, with the reader's errors under their lines. */
export function Editor({ ref, initial, places, onChange, onSave }: Props) {
  const host = useRef<HTMLDivElement>(null);
  const view = useRef<EditorView | null>(null);
  const calls = useRef({ onChange, onSave });
  const first = useRef(initial);
  useEffect(() => {
    calls.current = { onChange, onSave };
  });
  useEffect(() => {
    if (host.current === null) return;
    const made = new EditorView({
      parent: host.current,
      state: EditorState.create({
        doc: first.current,
        extensions: [
          EditorView.cspNonce.of(styleNonce),
          lineNumbers(),
          history(),
          highlightActiveLine(),
          lintGutter(),
          yaml(),
          syntaxHighlighting(inks),
          EditorView.lineWrapping,
          EditorView.contentAttributes.of({ "aria-label": "The lab's text", tabindex: "0" }),
          keymap.of([...defaultKeymap, ...historyKeymap, indentWithTab]),
          EditorView.updateListener.of((update) => {
            if (update.docChanged) calls.current.onChange(update.state.doc.toString());
          }),
        ],
      }),
    });
    view.current = made;
    made.focus();
    return () => made.destroy();
  }, []);
  useEffect(() => {
    const made = view.current;
    if (made === null) return;
    const found = places.map((place): Diagnostic => {
      const line = made.state.doc.line(Math.min(Math.max(place.line, 1), made.state.doc.lines));
      const from = Math.min(line.from + Math.max(place.column - 1, 0), line.to);
      return { from, to: line.to, severity: "error", message: place.message };
    });
    made.dispatch(setDiagnostics(made.state, found));
  }, [places]);
  useImperativeHandle(ref, () => ({
    goTo: (number) => {
      const made = view.current;
      if (made === null) return;
      const line = made.state.doc.line(Math.min(Math.max(number, 1), made.state.doc.lines));
      made.dispatch({
        selection: { anchor: line.from },
        effects: EditorView.scrollIntoView(line.from, { y: "center" }),
      });
      made.focus();
    },
    replace: (text) => {
      view.current?.dispatch({ changes: { from: 0, to: view.current.state.doc.length, insert: text } });
    },
  }));
  return <div ref={host} className="editor" />;
}
