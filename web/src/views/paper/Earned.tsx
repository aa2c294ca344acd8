import { Stamp, type Verdict } from "../../design/Stamp";
import { marks } from "../../design/words";
import type { Criterion } from "./types";

/** The sign and the marks of some criteria; the worst verdict shows where there are several. */
export function Earned({ criteria }: { criteria: Criterion[] }) {
  const earned = criteria.reduce((sum, c) => sum + c.marks * c.fraction, 0);
  const of = criteria.reduce((sum, c) => sum + c.marks, 0);
  return <Stamped earned={earned} of={of} title={criteria.map((c) => c.id).join(", ")} />;
}

/** The sign and the marks in the margin; nothing where nothing is to be had. */
export function Stamped({ earned, of, title }: { earned: number; of: number; title: string }) {
  if (title === "") return <span className="earned" />;
  const verdict: Verdict = earned === of ? "met" : earned > 0 ? "partly" : "missed";
  return (
    <span className={verdict === "met" ? "earned" : "earned pencil"} title={title}>
      <Stamp verdict={verdict} />
      {verdict === "met" ? marks(of) : `${marks(earned)} of ${marks(of)}`}
    </span>
  );
}
