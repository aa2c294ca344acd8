import { useEffect, useState } from "react";
import { dropDraft, keepDraft, readDraft } from "./drafts";

/** A text that is kept in the browser from the first change until it is saved, with the version it began with. */
export function useDraft(what: string, saved: string, version: number) {
  const [draft] = useState(() => readDraft(what));
  const [base, setBase] = useState(draft?.base ?? version);
  const [text, setText] = useState(draft?.text ?? saved);
  const changed = text !== saved;
  useEffect(() => {
    if (changed) keepDraft(what, { base, text });
    else dropDraft(what);
  }, [what, base, text, changed]);
  return { base, setBase, text, setText, changed };
}
