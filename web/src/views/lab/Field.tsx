import { useEffect, useRef } from "react";
import type { Direction } from "../../weave/geometry";

interface Props {
  label: string;
  initial: string;
  onDone: (typed: string, way?: Direction) => void;
  onCancel: () => void;
}

/** Where an address is typed, at its knot: Enter writes it, up and down write it and go on. */
export function Field({ label, initial, onDone, onCancel }: Props) {
  const input = useRef<HTMLInputElement>(null);
  useEffect(() => {
    const own = input.current;
    own?.focus();
    own?.setSelectionRange(own.value.length, own.value.length);
  }, []);
  return (
    <input
      ref={input}
      aria-label={label}
      defaultValue={initial}
      placeholder="20, or a whole address"
      spellCheck={false}
      autoComplete="off"
      onBlur={onCancel}
      onKeyDown={(event) => {
        const typed = event.currentTarget.value;
        if (event.key === "Enter") onDone(typed);
        else if (event.key === "Escape") onCancel();
        else if (event.key === "ArrowUp" || event.key === "ArrowDown")
          onDone(typed, event.key === "ArrowUp" ? "up" : "down");
        else if (event.key === "Tab") onDone(typed, event.shiftKey ? "left" : "right");
        else return;
        event.preventDefault();
        event.stopPropagation();
      }}
    />
  );
}
