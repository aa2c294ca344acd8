import { useEffect, useLayoutEffect, useRef } from "react";

/** What a view's keys do, by the name the keyboard gives the key; `Ctrl+s` is Ctrl or Cmd with s. */
export type Keys = Record<string, (() => void) | undefined>;

const CHOSEN = "input[type='radio'], input[type='checkbox'], input[type='file']";
const TYPED_IN = `input:not(${CHOSEN}), textarea, select, [contenteditable='true'], .cm-editor, dialog, .modal`;

/** Listens to the view's keys, but not while something is typed; F1 and keys with Ctrl work everywhere. */
export function useKeys(keys: Keys): void {
  const latest = useRef(keys);
  // before the browser paints: a key acts on what is seen
  useLayoutEffect(() => {
    latest.current = keys;
  });
  useEffect(() => {
    const pressed = (event: KeyboardEvent) => {
      const chord = event.ctrlKey || event.metaKey;
      const typing = isIn(event.target, TYPED_IN) || (isIn(event.target, CHOSEN) && moves(event.key));
      if (event.altKey || event.defaultPrevented || (typing && !chord && event.key !== "F1")) return;
      const shifted = event.shiftKey && moves(event.key) ? latest.current[`Shift+${event.key}`] : undefined;
      const action = shifted ?? latest.current[chord ? `Ctrl+${event.key.toLowerCase()}` : event.key];
      if (action === undefined || (event.key === "Enter" && isActive(event.target))) return;
      event.preventDefault();
      action();
    };
    document.addEventListener("keydown", pressed);
    return () => document.removeEventListener("keydown", pressed);
  }, []);
}

/** Links and buttons take Enter themselves. */
const isActive = (target: EventTarget | null) => isIn(target, "a, button, summary");

const isIn = (target: EventTarget | null, selector: string) =>
  target instanceof Element && target.closest(selector) !== null;

/** Keys that a choice takes itself. */
const moves = (key: string) => key.startsWith("Arrow") || key === " ";
