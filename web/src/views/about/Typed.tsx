import { useState } from "react";
import { Form } from "react-bootstrap";
import "./about.css";
import { Labelled } from "../../design/Labelled";

interface Props {
  label: string;
  value: string;
  rows?: number;
  onWrite: (value: string) => void;
}

/** A text that is written into the lab when its field is left, or with Enter where it has one line. */
export function Typed({ label, value, rows = 1, onWrite }: Props) {
  return <Field key={value} label={label} value={value} rows={rows} onWrite={onWrite} />;
}

function Field({ label, value, rows = 1, onWrite }: Props) {
  const [typed, setTyped] = useState(value);
  const write = () =>
    typed.trimEnd() !== value.trimEnd() && onWrite(rows > 1 ? `${typed.trimEnd()}\n` : typed.trim());
  const id = `typed-${label.toLowerCase().replace(/[^a-z0-9]+/g, "-")}`;
  return (
    <Labelled id={id} label={label} className="mb-3">
      {rows > 1 ? (
        <Form.Control
          as="textarea"
          rows={rows}
          value={typed}
          onChange={(event) => setTyped(event.target.value)}
          onBlur={write}
        />
      ) : (
        <Form.Control
          value={typed}
          onChange={(event) => setTyped(event.target.value)}
          onBlur={write}
          onKeyDown={(event) => event.key === "Enter" && write()}
        />
      )}
    </Labelled>
  );
}
