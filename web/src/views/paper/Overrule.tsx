import { useState } from "react";
import { Button, Form } from "react-bootstrap";
import type { Schemas } from "../../api/client";
import { useOverrule } from "../../api/queries";
import { marks } from "../../design/words";

interface Props {
  paper: number;
  /** The id of the criterion; empty for the total. */
  criterion: string;
  what: string;
  most: number;
  now: number;
  overruled: Schemas["Overruled"] | null;
}

/** What the instructor decided against the marking, with the reason; or the way to decide so. */
export function Overrule({ paper, criterion, what, most, now, overruled }: Props) {
  const overrule = useOverrule(paper);
  const [open, setOpen] = useState(false);
  const send = (given: number | null, reason: string) =>
    overrule.mutate({ criterion, marks: given, reason }, { onSuccess: () => setOpen(false) });
  if (open)
    return (
      <Deciding
        what={what}
        most={most}
        now={overruled?.marks ?? now}
        reason={overruled?.reason ?? ""}
        error={overrule.error}
        busy={overrule.isPending}
        onSave={send}
        onClose={() => setOpen(false)}
      />
    );
  return (
    <span className="soft">
      {overruled !== null && (
        <>
          <span className="pencil">
            Overruled, {marks(overruled.marks)} in place of {marks(overruled.was)}: {overruled.reason}
          </span>{" "}
          <button
            type="button"
            className="as-link"
            aria-label={`Take back what was decided on ${what}`}
            onClick={() => send(null, "")}
          >
            take back
          </button>{" "}
        </>
      )}
      <button
        type="button"
        className="as-link"
        aria-label={`Overrule ${what}`}
        onClick={() => {
          overrule.reset();
          setOpen(true);
        }}
      >
        {overruled === null ? "overrule" : "change"}
      </button>
    </span>
  );
}

interface DecidingProps {
  what: string;
  most: number;
  now: number;
  reason: string;
  error: Error | null;
  busy: boolean;
  onSave: (marks: number, reason: string) => void;
  onClose: () => void;
}

function Deciding({ what, most, now, reason, error, busy, onSave, onClose }: DecidingProps) {
  const [given, setGiven] = useState(marks(now));
  const [why, setWhy] = useState(reason);
  return (
    <Form
      className="deciding"
      onSubmit={(event) => {
        event.preventDefault();
        onSave(Number(given), why);
      }}
      onKeyDown={(event) => {
        event.stopPropagation();
        if (event.key === "Escape") onClose();
      }}
    >
      <Form.Control
        className="mono"
        type="number"
        min={0}
        max={most}
        step={0.01}
        required
        autoFocus
        value={given}
        onFocus={(event) => event.target.select()}
        aria-label={`Marks for ${what}, of ${marks(most)}`}
        onChange={(event) => setGiven(event.target.value)}
      />
      <span>of {marks(most)}, because</span>
      <Form.Control
        required
        maxLength={500}
        value={why}
        aria-label="The reason"
        onChange={(event) => setWhy(event.target.value)}
      />
      <Button type="submit" variant="primary" disabled={busy || why.trim() === ""}>
        Overrule
      </Button>
      <button type="button" className="as-link" onClick={onClose}>
        leave it
      </button>
      {error && <p className="pencil">{error.message}</p>}
    </Form>
  );
}
