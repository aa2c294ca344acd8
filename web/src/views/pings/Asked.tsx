import { Button, Form } from "react-bootstrap";
import type { Schemas } from "../../api/client";
import type { Look } from "../../authoring/calls";
import { Labelled } from "../../design/Labelled";

type Row = Schemas["PingRow"] | Schemas["OpenedRow"] | Schemas["ResolvedRow"];

interface Props {
  look: Look;
  /** Its number in the list, negative where it is not expected. */
  at: number;
  row: Row | undefined;
  onTake: () => void;
  onOpen: () => void;
  onForget: () => void;
  onPut: (key: string, value: string) => void;
}

/** A ping or check: what comes of it, what is expected, and who has to be seen as what. */
export function Asked({ look, at, row, onTake, onOpen, onForget, onPut }: Props) {
  if (row === undefined)
    return <p className="soft">Move to a pair of devices, or press n for a ping or check of any kind.</p>;
  const expected = at >= 0;
  const to = "to" in row ? row.to : "open" in row ? row.open : row.resolve;
  return (
    <section>
      <h2>
        {row.from} to {to}: {row.outcome}
      </h2>
      <p>{row.detail}.</p>
      {row.seen_as !== null && (
        <p>
          {row.answered_by} sees it as <span className="mono">{row.seen_as}</span>.
        </p>
      )}
      <p className="soft">
        There: {row.there.join(", ")}.{row.back.length > 0 && <> Back: {row.back.join(", ")}.</>}
      </p>
      {expected ? (
        <p>
          Expected: <b>{row.expect}</b>
          {row.as_expected === false ? ", which does not hold." : ", and so it is."}{" "}
          {look.seen[at] ? "Learners see it as a target." : "Learners do not see it."}
        </p>
      ) : (
        <p>Nothing is expected of it.</p>
      )}
      <div className="d-flex gap-2 mb-3">
        {(!expected || row.as_expected === false) && (
          <Button size="sm" variant="primary" onClick={onTake}>
            Expect {row.outcome}
          </Button>
        )}
        <Button size="sm" variant="light" onClick={onOpen}>
          Follow its journey
        </Button>
        {expected && (
          <Button size="sm" variant="light" onClick={onForget}>
            Expect nothing
          </Button>
        )}
      </div>
      {expected && <Further key={`${at} ${row.id}`} shown={look.seen[at] ?? false} onPut={onPut} />}
    </section>
  );
}

/** What else an entry may say; each is written when its field is left. */
function Further({ shown, onPut }: { shown: boolean; onPut: Props["onPut"] }) {
  return (
    <details className="notes">
      <summary>Say more about it</summary>
      {[
        ["source", "Asks from (port or address)"],
        ["seen_as", "Has to be seen as"],
        ["answered_by", "Has to be answered by"],
        ["note", "Note"],
        ["id", "Id"],
      ].map(([key = "", label = ""]) => (
        <Labelled key={key} id={`asked-${key}`} label={label} className="mt-2">
          <Form.Control
            size="sm"
            onBlur={(event) => event.target.value !== "" && onPut(key, event.target.value)}
          />
        </Labelled>
      ))}
      <Form.Check
        id="asked-shown"
        className="mt-2"
        label="learners see it as a target"
        checked={shown}
        onChange={(event) => onPut("shown", event.target.checked ? "true" : "")}
      />
    </details>
  );
}
