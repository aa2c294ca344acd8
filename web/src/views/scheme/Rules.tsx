import { useState } from "react";
import { Form } from "react-bootstrap";
import type { Schemas } from "../../api/client";
import type { Edit } from "../../authoring/calls";
import { Labelled } from "../../design/Labelled";

interface Props {
  scheme: Schemas["SchemeRows"];
  onEdit: (...edits: Edit[]) => Promise<boolean>;
}

/** What holds for the whole scheme: strictness, extras, carrying forward, the stated total, grades. */
export function Rules({ scheme, onEdit }: Props) {
  const put = (key: string, value: string) =>
    void onEdit({ do: "put", place: `${scheme.place}.${key}`, value });
  return (
    <section>
      <h2>For the whole scheme</h2>
      <Labelled id="rule-strictness" label="Routes and translations are judged" className="mb-2">
        <Form.Select value={scheme.strictness} onChange={(event) => put("strictness", event.target.value)}>
          <option value="effect">by what they do</option>
          <option value="form">by their form</option>
        </Form.Select>
      </Labelled>
      <Labelled id="rule-extras" label="Statements that nobody asked for" className="mb-2">
        <Form.Select value={scheme.extras} onChange={(event) => put("extras", event.target.value)}>
          <option value="ignore">are not looked at</option>
          <option value="report">are told</option>
          <option value="charge">cost marks</option>
        </Form.Select>
      </Labelled>
      <Form.Check
        id="rule-carry"
        className="mb-2"
        label="a mistake is charged once"
        checked={scheme.carry_forward}
        onChange={(event) => put("carry_forward", event.target.checked ? "" : "false")}
      />
      <Typed
        key={`total ${scheme.total}`}
        id="rule-total"
        label="All criteria have to add up to"
        value={scheme.total === null ? "" : String(scheme.total)}
        onWrite={(value) => put("total", value)}
      />
      <Typed
        key={`grades ${JSON.stringify(scheme.grades)}`}
        id="rule-grades"
        label="Grades, each from a percentage on"
        value={Object.entries(scheme.grades)
          .map(([grade, from]) => `${grade} ${from}`)
          .join(", ")}
        placeholder="A 85, B 70, C 50"
        onWrite={(value) => void onEdit(...gradesEdits(scheme, value))}
      />
    </section>
  );
}

/** Writes grades such as `A 85, B 70` in the place of those that there are. */
function gradesEdits(scheme: Schemas["SchemeRows"], typed: string): Edit[] {
  const grades = typed
    .split(",")
    .map((part) => /^\s*(\S+)\s+(\d+(?:\.\d+)?)\s*%?\s*$/.exec(part))
    .flatMap((found) => (found ? [[found[1] ?? "", found[2] ?? ""] as const] : []));
  const place = `${scheme.place}.grades`;
  const edits: Edit[] = Object.keys(scheme.grades).length > 0 ? [{ do: "remove", places: [place] }] : [];
  if (grades.length > 0) edits.push({ do: "add", place, value: Object.fromEntries(grades) });
  return edits.length > 0 ? edits : [{ do: "remove", places: [place] }];
}

interface TypedProps {
  id: string;
  label: string;
  value: string;
  placeholder?: string;
  onWrite: (value: string) => void;
}

function Typed({ id, label, value, placeholder, onWrite }: TypedProps) {
  const [typed, setTyped] = useState(value);
  const write = () => typed.trim() !== value && onWrite(typed.trim());
  return (
    <Labelled id={id} label={label} className="mb-2">
      <Form.Control
        size="sm"
        value={typed}
        placeholder={placeholder}
        onChange={(event) => setTyped(event.target.value)}
        onBlur={write}
        onKeyDown={(event) => event.key === "Enter" && write()}
      />
    </Labelled>
  );
}
