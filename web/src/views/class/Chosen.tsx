import { useDeferredValue } from "react";
import { Link } from "react-router";
import type { Schemas } from "../../api/client";
import { useComments } from "../../api/sittings";
import { usePaper } from "../../api/queries";
import { inSentence, marks } from "../../design/words";
import type { Column, Row } from "./order";

/** The learner at the cursor, what is doubtful, and what was found in the column at the cursor. */
export function Chosen({ row, column, outOf }: { row: Row; column: Column | undefined; outOf: number }) {
  const counts = new Map<string, number>();
  for (const one of row.mistakes) counts.set(one, (counts.get(one) ?? 0) + 1);
  return (
    <section>
      <h2>
        {row.learner}
        {row.marked && `: ${marks(row.marked.carried)} of ${marks(outOf)}`}
      </h2>
      {row.doubts.length > 0 && row.paper !== null && <Doubts paper={row.paper} doubts={row.doubts} />}
      {row.marked && (
        <p>
          {counts.size === 0
            ? "No mistake."
            : [...counts].map(([name, n]) => (n === 1 ? name : `${name} (${n})`)).join(", ")}
        </p>
      )}
      {row.paper === null ? (
        <p className="soft">No paper of this learner counts yet.</p>
      ) : (
        <>
          {row.marked && column && <Found paper={row.paper} column={column} />}
          <Link to={`/papers/${row.paper}`}>Open the paper</Link>
        </>
      )}
    </section>
  );
}

/** Why somebody should look at a paper, until somebody says to have done so. */
export function Doubts({ paper, doubts }: { paper: number; doubts: string[] }) {
  const { looked } = useComments(paper);
  return (
    <div className="said">
      {doubts.map((doubt) => (
        <p key={doubt} className="mb-1">
          {doubt}
        </p>
      ))}
      <button type="button" className="as-link" disabled={looked.isPending} onClick={() => looked.mutate()}>
        I have looked at it
      </button>
    </div>
  );
}

/** What a paper lost in a task or criterion, as it was found. */
function Found({ paper, column }: { paper: number; column: Column }) {
  const shown = useDeferredValue(paper);
  const found = usePaper(shown);
  const result: Schemas["Result"] | null = found.data?.result ?? null;
  if (result === null || shown !== paper) return <p className="soft">{column.name} …</p>;
  const own = result.criteria.filter((c, n) =>
    column.of === "criteria" ? n === column.index : c.task === column.task,
  );
  const lost = own.filter((c) => c.fraction < 1);
  if (lost.length === 0) return <p>{column.name}: all marks.</p>;
  return (
    <>
      <h3>{column.name}</h3>
      {lost.slice(0, 5).map((c) => (
        <p key={c.id} className="mb-2">
          <span className="mono">{[c.key, c.device, c.operand].filter((part) => part !== "").join(" ")}</span>
          : {marks(c.marks * c.fraction)} of {marks(c.marks)}
          {c.carried && ", only follows from a mistake"}
          <span className="soft d-block">
            {c.required !== "" && `required ${inSentence(c.required)}; `}found{" "}
            {c.found === "" ? "nothing" : inSentence(c.found)}
          </span>
        </p>
      ))}
      {lost.length > 5 && <p className="soft">and {lost.length - 5} more</p>}
    </>
  );
}
