import { Stamp, type Verdict } from "../../design/Stamp";
import { marks } from "../../design/words";
import type { Criterion } from "./margin";

/** The sign and the marks in the margin; the worst verdict shows where a line earns several. */
export function Earned({ criteria }: { criteria: Criterion[] }) {
  if (criteria.length === 0) return <span className="earned" />;
  const earned = criteria.reduce((sum, c) => sum + c.marks * c.fraction, 0);
  const of = criteria.reduce((sum, c) => sum + c.marks, 0);
  const verdict: Verdict = earned === of ? "met" : earned > 0 ? "partly" : "missed";
  return (
    <span
      className={verdict === "met" ? "earned" : "earned pencil"}
      title={criteria.map((c) => c.id).join(", ")}
    >
      <Stamp verdict={verdict} />
      {verdict === "met" ? marks(of) : `${marks(earned)} of ${marks(of)}`}
    </span>
  );
}
