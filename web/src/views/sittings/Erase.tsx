import { useState, type SyntheticEvent } from "react";
import { Button, Form } from "react-bootstrap";
import type { Schemas } from "../../api/client";
import { useErase } from "../../api/sittings";
import { Labelled } from "../../design/Labelled";
import { count } from "../../design/words";

/** Erases a learner: the name is chosen and the reason written before it can be done, for it cannot be undone. */
export function Erase({ seats }: { seats: Schemas["SeatShape"][] }) {
  const erase = useErase();
  const [code, setCode] = useState("");
  const [reason, setReason] = useState("");
  const send = (event: SyntheticEvent) => {
    event.preventDefault();
    erase.mutate({ code, reason }, { onSuccess: () => setCode("") });
  };
  return (
    <details className="mt-4 erase">
      <summary>Erase a learner</summary>
      <p className="soft">
        Papers, name, comments and what they came in are gone for good, in every sitting and group; the
        figures of the class stay. Copies of the database and archives of sittings are not changed.
      </p>
      <Form onSubmit={send}>
        <Labelled id="erased" label="Whom">
          <Form.Select required value={code} onChange={(event) => setCode(event.target.value)}>
            <option value="" disabled>
              choose …
            </option>
            {seats.map(({ learner }) => (
              <option key={learner.code} value={learner.code}>
                {learner.name} ({learner.code})
              </option>
            ))}
          </Form.Select>
        </Labelled>
        <Labelled id="erased-because" label="The reason">
          <Form.Control
            required
            maxLength={500}
            value={reason}
            onChange={(event) => setReason(event.target.value)}
          />
        </Labelled>
        <Button type="submit" variant="danger" disabled={erase.isPending}>
          Erase for good
        </Button>
      </Form>
      <p role="status" className={erase.error ? "pencil" : "soft"}>
        {erase.error?.message ?? (erase.data && `Erased, with ${count(erase.data.papers, "paper")}.`)}
      </p>
    </details>
  );
}
