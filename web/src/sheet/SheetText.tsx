import { PARTS, type Form } from "./forms";
import "./sheet.css";

interface WordsProps {
  line: string;
  form?: Form;
}

/** One line of a configuration with its words set off. */
export function Words({ line, form = "sheet" }: WordsProps) {
  return PARTS[form](line).map((part, n) =>
    part.kind === "value" ? (
      part.text
    ) : (
      <span key={n} className={part.kind}>
        {part.text}
      </span>
    ),
  );
}

/** Divides a sheet into its lines, without the empty one behind the last. */
export const linesOf = (text: string) => text.replace(/\n$/, "").split("\n");

interface SheetTextProps {
  text: string;
  form?: Form;
}

/** A configuration to read, with numbered lines. */
export function SheetText({ text, form = "sheet" }: SheetTextProps) {
  return (
    <ol className="sheet-text">
      {linesOf(text).map((line, n) => (
        <li key={n}>
          <span className="line-number" aria-hidden="true">
            {n + 1}
          </span>
          <code>
            <Words line={line} form={form} />
          </code>
        </li>
      ))}
    </ol>
  );
}
