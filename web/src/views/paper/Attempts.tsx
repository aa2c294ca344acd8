import { useState } from "react";
import { Form } from "react-bootstrap";
import { Link } from "react-router";
import type { Schemas } from "../../api/client";
import { useCount } from "../../api/queries";
import { marks, moment } from "../../design/words";

type Paper = Schemas["PaperView"];

/** All papers that the learner handed in, where there are several. */
export function Attempts({ paper }: { paper: Paper }) {
  if (paper.attempts.length < 2) return null;
  return (
    <section className="mt-4">
      <h2>All papers of {paper.learner}</h2>
      <ul className="attempts">
        {paper.attempts.map((own) => (
          <li key={own.id}>
            {own.id === paper.id ? (
              <b>{moment(own.received_at)}</b>
            ) : (
              <Link to={`/papers/${own.id}`}>{moment(own.received_at)}</Link>
            )}
            <span className="soft">
              {own.carried !== null && `, ${marks(own.carried)} marks`}
              {own.counts && ", counts"}
            </span>
          </li>
        ))}
      </ul>
    </section>
  );
}

/** Says of a paper that it does not count, or that it was chosen to, and lets that be chosen, with a reason. */
export function Uncounted({ paper }: { paper: Paper }) {
  const count = useCount(paper.id);
  const [reason, setReason] = useState("");
  const own = paper.attempts.find((attempt) => attempt.id === paper.id);
  const other = paper.attempts.find((attempt) => attempt.counts);
  if (own === undefined || (own.counts && !(paper.chosen && paper.sitting))) return null;
  const failed = count.error && <span className="pencil"> {count.error.message}</span>;
  if (own.counts)
    return (
      <p className="noted">
        This paper was chosen by hand to count.{" "}
        <button
          type="button"
          className="as-link"
          disabled={count.isPending}
          onClick={() => count.mutate({ chosen: false, reason: "" })}
        >
          Leave that to the rules
        </button>
        {failed}
      </p>
    );
  return (
    <Form
      className="said choosing"
      onSubmit={(event) => {
        event.preventDefault();
        count.mutate({ chosen: true, reason });
      }}
    >
      <p>
        This paper does not count{other ? ": the one handed in " : "."}
        {other && (
          <>
            <Link to={`/papers/${other.id}`}>{moment(other.received_at)}</Link> does.
          </>
        )}
      </p>
      {paper.sitting && (
        <Form.Control
          size="sm"
          required
          maxLength={500}
          aria-label="Why it is to count"
          placeholder="why it is to count"
          value={reason}
          onChange={(event) => setReason(event.target.value)}
        />
      )}
      <button type="submit" className="as-link" disabled={count.isPending}>
        Count this one instead
      </button>
      {failed}
    </Form>
  );
}
