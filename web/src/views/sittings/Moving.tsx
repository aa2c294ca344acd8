import { useState } from "react";
import { Button, Form } from "react-bootstrap";
import { Link } from "react-router";
import type { Schemas } from "../../api/client";
import { useMove, useMoving } from "../../api/sittings";
import { count, marks } from "../../design/words";

/** Where the lab was changed since: what that changes for whom, to be taken over or not. */
export function Moving({ sitting }: { sitting: Schemas["SittingView"] }) {
  const [shown, setShown] = useState(false);
  if (sitting.version >= sitting.newest) return null;
  return (
    <section>
      <h2>The lab has a version {sitting.newest}</h2>
      <p>
        This sitting is marked with version {sitting.version}.{" "}
        <Link to={`/labs/${sitting.slug}/versions`}>What is different</Link>
      </p>
      {shown ? (
        <Changes number={sitting.number} />
      ) : (
        <button type="button" className="as-link" onClick={() => setShown(true)}>
          Show what it changes for whom
        </button>
      )}
    </section>
  );
}

function Changes({ number }: { number: number }) {
  const found = useMoving(number);
  const move = useMove(number);
  const [reason, setReason] = useState("");
  if (found.data === undefined) return <p className="soft">{found.error?.message ?? "One moment …"}</p>;
  const { changed, papers, waiting, failed, newest } = found.data;
  const gain = changed.filter((own) => own.becomes > own.was).length;
  const lose = changed.filter((own) => own.becomes < own.was).length;
  return (
    <div role="status">
      <p>
        {waiting > 0
          ? `${papers - waiting} of ${count(papers, "paper")} are marked with it so far.`
          : changed.length === 0
            ? "It changes nothing for anybody."
            : `${gain} gain, ${lose} lose, ${papers - gain - lose} keep their marks.`}
      </p>
      {failed > 0 && <p className="pencil">{count(failed, "paper")} cannot be marked with it.</p>}
      {changed.length > 0 && (
        <table className="table">
          <thead>
            <tr>
              <th scope="col">Learner</th>
              <th scope="col" className="number">
                Now
              </th>
              <th scope="col" className="number">
                Then
              </th>
            </tr>
          </thead>
          <tbody>
            {changed.slice(0, 60).map((own) => (
              <tr key={own.paper} title={own.criteria.join(", ")}>
                <td>
                  <Link to={`/papers/${own.paper}`}>{own.learner}</Link>
                  <span className="soft d-block">{count(own.criteria.length, "criterion", "criteria")}</span>
                </td>
                <td className="number">
                  {marks(own.was)} {own.grade_was}
                </td>
                <td className="number">
                  {marks(own.becomes)} {own.grade_becomes}
                </td>
              </tr>
            ))}
          </tbody>
        </table>
      )}
      <Form
        onSubmit={(event) => {
          event.preventDefault();
          move.mutate({ version: newest, reason });
        }}
      >
        <Form.Control
          size="sm"
          required
          maxLength={500}
          aria-label="Why it is taken over"
          placeholder="why"
          value={reason}
          onChange={(event) => setReason(event.target.value)}
        />
        <Button type="submit" variant="primary" className="mt-2" disabled={waiting > 0 || move.isPending}>
          Mark with version {newest}
        </Button>
        {move.error && <p className="pencil">{move.error.message}</p>}
      </Form>
    </div>
  );
}
