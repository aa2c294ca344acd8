import { useState } from "react";
import { Form } from "react-bootstrap";
import { atOccasion, type Occasion } from "../../api/occasion";

const COLUMNS: [string, string][] = [
  ["learner", "name"],
  ["id", "id"],
  ["export_id", "export id"],
  ["mail", "mail"],
  ["group", "group"],
  ["team", "team"],
  ["carried", "marks"],
  ["out_of", "out of"],
  ["percent", "per cent"],
  ["grade", "grade"],
  ["days_late", "days late"],
  ["mistakes", "mistakes"],
  ["overruled", "overruled"],
  ["tasks", "each task"],
  ["criteria", "each criterion"],
];
const USUAL = ["learner", "carried", "out_of", "percent", "grade", "mistakes", "overruled"];

/** Results as files: columns chosen, comma or semicolon. */
export function Out({ slug, occasion }: { slug: string; occasion: Occasion }) {
  const [chosen, setChosen] = useState(USUAL);
  const [choosing, setChoosing] = useState(false);
  const columns = COLUMNS.map(([name]) => name).filter((name) => chosen.includes(name));
  const file = (suffix: string, more: Record<string, string> = {}) =>
    atOccasion(`/results/${slug}.${suffix}`, occasion, more);
  const csv = (separator: string) => file("csv", { columns: columns.join(","), separator });
  return (
    <section>
      <h2>Out</h2>
      <p className="port-acts">
        <a href={csv(",")}>CSV</a>
        <a href={csv(";")}>with semicolons</a>
        <a href={file("json")}>JSON</a>
        <button
          type="button"
          className="as-link"
          aria-expanded={choosing}
          onClick={() => setChoosing(!choosing)}
        >
          columns
        </button>
      </p>
      {choosing && (
        <fieldset className="out-columns">
          <legend className="visually-hidden">Columns of the CSV</legend>
          {COLUMNS.map(([name, words]) => (
            <Form.Check
              key={name}
              id={`column-${name}`}
              label={words}
              checked={chosen.includes(name)}
              onChange={() =>
                setChosen(chosen.includes(name) ? chosen.filter((own) => own !== name) : [...chosen, name])
              }
            />
          ))}
        </fieldset>
      )}
      <p>
        <a href={file("zip")}>marked papers, a page for each</a>
      </p>
      <p>
        <a href={atOccasion(`/results/${slug}/statistics`, occasion)} target="_blank">
          statistics to print, without names
        </a>
      </p>
    </section>
  );
}
