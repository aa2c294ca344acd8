import { useState } from "react";
import type { Schemas } from "../../api/client";
import { useIfMended } from "../../api/queries";
import { marks } from "../../design/words";
import type { Fault, MarkedPaper } from "./types";

/** What the paper would earn if this mistake alone were mended: worked out when it is asked for. */
export function IfMended({ paper, fault }: { paper: MarkedPaper; fault: Fault }) {
  const [asked, setAsked] = useState(false);
  const then = useIfMended(paper.id, fault.id, asked);
  if (!asked)
    return (
      <p>
        <button type="button" className="as-link" onClick={() => setAsked(true)}>
          What if it were mended?
        </button>
      </p>
    );
  if (then.error) return <p className="pencil">{then.error.message}</p>;
  return (
    <div role="status">
      {then.data ? <Told paper={paper} then={then.data} /> : <p className="soft">Marking …</p>}
    </div>
  );
}

function Told({ paper, then }: { paper: MarkedPaper; then: Schemas["IfMended"] }) {
  const { score, carried } = paper.result;
  return (
    <>
      <p>
        <b>If it were mended:</b>{" "}
        {paper.result.overruled !== null && "the total is decided by hand, and stays at "}
        {marks(then.carried)} of {marks(then.out_of)}
        {then.grade !== null && `, grade ${then.grade}`}
        <span className="soft">
          {then.carried === carried ? ", as now" : ` in place of ${marks(carried)}`};{" "}
          {then.score === score
            ? "as it stands, no more than now"
            : `as it stands ${marks(then.score)} in place of ${marks(score)}`}
          .
        </span>
      </p>
      <Criteria told="Met then:" ids={then.holds} />
      <Criteria told="Lost then, and met now:" ids={then.lost} />
    </>
  );
}

function Criteria({ told, ids }: { told: string; ids: string[] }) {
  if (ids.length === 0) return null;
  return (
    <p className="soft">
      {told} <span className="mono">{ids.map((id) => id.replaceAll(":", " ")).join("; ")}</span>
    </p>
  );
}
