import { useEffect, useRef } from "react";

/** What a view's keys do, by the name the keyboard gives the key; `Ctrl+s` is Ctrl or Cmd with s. */
export type Keys = Record<string, (() => void) | undefined>;

const TYPED_IN = "input, textarea, select, [contenteditable='true'], .cm-editor, dialog, .modal";

/** Listens to the view's keys, but not while something is typed; keys with Ctrl work everywhere. */
export function useKeys(keys: Keys): void {
  const latest = useRef(keys);
  useEffect(() => {
    latest.current = keys;
  });
  useEffect(() => {
    const pressed = (event: KeyboardEvent) => {
      const chord = event.ctrlKey || event.metaKey;
      const typing = event.target instanceof Element && event.target.closest(TYPED_IN) !== null;
      if (event.altKey || event.defaultPrevented || (typing && !chord)) return;
      const action = latest.current[chord ? `Ctrl+${event.key.toLowerCase()}` : event.key];
      if (action === undefined || (event.key === "Enter" && isActive(event.target))) return;
      event.preventDefault();
      action();
    };
    document.addEventListener("keydown", pressed);
    return () => document.removeEventListener("keydown", pressed);
  }, []);
}

/** Links and buttons take Enter themselves. */
function isActive(target: EventTarget | null): boolean {
  return target instanceof Element && target.closest("a, button, summary") !== null;
}
