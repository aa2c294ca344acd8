import { Link } from "react-router";
import type { Schemas } from "../../api/client";
import { inWords } from "../../design/words";

/** What the lab check says: a heading with the result, each finding with its place and mend. */
export function Findings({ lab }: { lab: Schemas["LabView"] }) {
  const { findings, holding, pings } = lab.check;
  const told = findings.length === 1 ? "one finding" : `${inWords(findings.length)} findings`;
  return (
    <section>
      <h2>Lab check: {told}</h2>
      {findings.map((finding, n) => (
        <div className="entry" key={n}>
          <p>
            <b>{finding.message}</b> {finding.mend}
          </p>
          <p className="soft">
            {finding.severity}, <code>{finding.place}</code>
          </p>
        </div>
      ))}
      <p className="soft mt-2 mb-0">
        <Link to={`/labs/${lab.slug}/pings`}>
          {pings === 0 ? "The lab has no pings yet" : `${holding} of ${pings} pings`}
        </Link>
        {pings === 0 ? ". " : " hold on the model answer. "}
        {lab.check.blank === 0 ? "A blank paper earns nothing." : ""}
      </p>
    </section>
  );
}
