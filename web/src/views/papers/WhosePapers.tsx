import { useState } from "react";
import { Button, Form } from "react-bootstrap";
import type { Schemas } from "../../api/client";

const NEW = " new";

interface Props {
  asked: Schemas["UploadAsked"];
  busy: boolean;
  onTake: (matched: Record<string, string>, newcomers: string[]) => void;
  onLeave: () => void;
}

/** Names in an archive of which it is not certain whose they are: told for each, before anything is stored. */
export function WhosePapers({ asked, busy, onTake, onLeave }: Props) {
  const [told, setTold] = useState(() =>
    Object.fromEntries(asked.whose.map(({ name, proposed }) => [name, proposed ?? NEW])),
  );
  return (
    <Form
      className="whose mt-4"
      onSubmit={(event) => {
        event.preventDefault();
        const newcomers = Object.keys(told).filter((name) => told[name] === NEW);
        onTake(Object.fromEntries(Object.entries(told).filter(([, code]) => code !== NEW)), newcomers);
      }}
    >
      <h2>Whose papers are these?</h2>
      <p className="soft">{asked.message} Nothing is stored yet.</p>
      {asked.whose.map(({ name, proposed }, n) => (
        <div key={name}>
          <Form.Label htmlFor={`whose-${n}`}>{name}</Form.Label>
          <Form.Select
            id={`whose-${n}`}
            size="sm"
            autoFocus={n === 0}
            value={told[name]}
            onChange={(event) => setTold({ ...told, [name]: event.target.value })}
          >
            <option value={NEW}>somebody who is not in the sitting yet</option>
            <option value="">nobody: leave it out</option>
            {asked.learners.map((own) => (
              <option key={own.code} value={own.code}>
                {own.name}, {own.code}
                {own.code === proposed ? " (probably)" : ""}
              </option>
            ))}
          </Form.Select>
        </div>
      ))}
      <p className="mt-3">
        <Button type="submit" variant="primary" disabled={busy}>
          Hand in
        </Button>{" "}
        <button type="button" className="as-link" onClick={onLeave}>
          hand in nothing
        </button>
      </p>
    </Form>
  );
}
