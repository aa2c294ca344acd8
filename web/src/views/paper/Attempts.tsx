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

/** Says of a paper that another one of its learner counts, and makes it count. */
export function Uncounted({ paper }: { paper: Paper }) {
  const count = useCount(paper.id);
  const own = paper.attempts.find((attempt) => attempt.id === paper.id);
  const other = paper.attempts.find((attempt) => attempt.counts);
  if (own === undefined || own.counts || other === undefined) return null;
  return (
    <p className="said">
      This paper does not count: the one handed in{" "}
      <Link to={`/papers/${other.id}`}>{moment(other.received_at)}</Link> does.{" "}
      <button type="button" className="as-link" disabled={count.isPending} onClick={() => count.mutate()}>
        Count this one instead
      </button>
      {count.error && <span className="pencil"> {count.error.message}</span>}
    </p>
  );
}
