import { useOverrule } from "../../api/queries";
import { inWords as number, marks, moment } from "../../design/words";
import { inWords, type MarkedPaper } from "./types";

/** What was overruled on an earlier paper of the learner: it still stands, until it is kept or taken back here. */
export function LookAgain({ paper }: { paper: MarkedPaper }) {
  const overrule = useOverrule(paper.id);
  const again = paper.look_again;
  if (again.length === 0) return null;
  return (
    <section className="said" aria-label="Overruled on an earlier paper">
      <p>
        {number(again.length, true)} {again.length === 1 ? "decision was" : "decisions were"} made on an
        earlier paper and still {again.length === 1 ? "stands" : "stand"}. Look again: does it fit this one?
      </p>
      <ul className="look-again">
        {again.map((own) => {
          const criterion = paper.result.criteria.find((c) => c.id === own.criterion);
          const what =
            own.criterion === "" ? "the total" : criterion === undefined ? own.criterion : inWords(criterion);
          return (
            <li key={own.criterion}>
              <span>
                <b className="mono">{what}</b>: {marks(own.marks)} marks, because: {own.reason}{" "}
                <span className="soft">({moment(own.made_at)})</span>
              </span>{" "}
              <button
                type="button"
                className="as-link"
                aria-label={`Keep what was decided on ${what}`}
                onClick={() =>
                  overrule.mutate({ criterion: own.criterion, marks: own.marks, reason: own.reason })
                }
              >
                keep
              </button>{" "}
              <button
                type="button"
                className="as-link"
                aria-label={`Take back what was decided on ${what}`}
                onClick={() => overrule.mutate({ criterion: own.criterion, marks: null, reason: "" })}
              >
                take back
              </button>
            </li>
          );
        })}
      </ul>
      {overrule.error && <p className="pencil">{overrule.error.message}</p>}
    </section>
  );
}
