import { parts } from "./highlight";
import "./sheet.css";

/** One line of a sheet with its words set off. */
export function Words({ line }: { line: string }) {
  return parts(line).map((part, n) =>
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

/** A sheet to read, with numbered lines. */
export function SheetText({ text }: { text: string }) {
  return (
    <ol className="sheet-text">
      {linesOf(text).map((line, n) => (
        <li key={n}>
          <span className="line-number" aria-hidden="true">
            {n + 1}
          </span>
          <code>
            <Words line={line} />
          </code>
        </li>
      ))}
    </ol>
  );
}
