import {
  autocompletion,
  type CompletionContext,
  type CompletionResult,
  type CompletionSource,
} from "@codemirror/autocomplete";
import type { Extension } from "@codemirror/state";
import type { Schemas } from "../api/client";

/** Asks what may be typed at a place, counted from 1. */
export type Ask = (text: string, line: number, column: number) => Promise<Schemas["CompletionShape"]>;

const source =
  (ask: Ask): CompletionSource =>
  async (context: CompletionContext): Promise<CompletionResult | null> => {
    const line = context.state.doc.lineAt(context.pos);
    const before = line.text.slice(0, context.pos - line.from);
    if (!context.explicit && !/\S$/.test(before)) return null;
    const found = await ask(context.state.doc.toString(), line.number, before.length + 1).catch(() => null);
    if (found === null || context.aborted || found.options.length === 0) return null;
    return {
      from: line.from + found.column - 1,
      options: found.options.map(({ text, about }) => ({ label: text, detail: about })),
      filter: false,
    };
  };

/** Offers what the server knows to fit: while typing, and with Ctrl and space at any place. */
export const completing = (ask: Ask): Extension =>
  autocompletion({ override: [source(ask)], icons: false, activateOnTyping: true });
