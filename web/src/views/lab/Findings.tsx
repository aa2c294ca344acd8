import { Link } from "react-router";
import { useWork } from "../../authoring/Authoring";
import { atStage } from "../../design/Stages";
import { inWords, notesInWords } from "../../design/words";

/** What the lab check says: a heading with the result, each finding with its place; and what is given out. */
export function Findings() {
  const { work, state } = useWork();
  if (state.check === null)
    return (
      <section>
        <h2>Lab check: one moment …</h2>
      </section>
    );
  const { findings, holding, pings, services, blank } = state.check;
  const lab = { slug: work.slug, stage: state.stage };
  const errors = findings.filter((f) => f.severity === "error");
  const notes = findings.filter((f) => f.severity !== "error");
  const all = pings + services;
  const told = errors.length === 0 ? "nothing to mend" : `${inWords(errors.length)} to mend`;
  return (
    <section>
      <h2>Lab check: {told}</h2>
      {errors.map((finding, n) => (
        <div className="entry" key={n}>
          <p>
            <b>{finding.message}</b> {finding.mend}
          </p>
          <p className="soft">
            <Link to={placeOf(work.slug, finding.place, finding.at.line)}>
              {finding.place === "" ? `line ${finding.at.line}` : finding.place}
            </Link>
          </p>
        </div>
      ))}
      <p className="soft mt-2 mb-0">
        <Link to={atStage(`/labs/${lab.slug}/pings`, lab.stage)}>
          {all === 0
            ? "The lab has no pings yet"
            : `${holding} of ${all} ${services > 0 ? "pings and service checks" : "pings"}`}
        </Link>
        {all === 0 ? ". " : " hold on the model answer. "}
        {blank === 0 ? "A blank paper earns nothing." : ""}
      </p>
      {notes.length > 0 && (
        <details className="notes">
          <summary>{notesInWords(notes.length)}</summary>
          {notes.map((note, n) => (
            <p key={n}>{note.message}</p>
          ))}
        </details>
      )}
      <p className="soft mt-2 mb-0">
        For learners:{" "}
        <a href={atStage(`/hand-out/${lab.slug}`, lab.stage)} target="_blank" rel="noopener">
          a page to print
        </a>{" "}
        or <a href={atStage(`/hand-out/${lab.slug}.lab.yaml`, lab.stage)}>a lab file</a>, without the model
        answer.
      </p>
    </section>
  );
}

/** Where a finding leads: to the view in which its place is written. */
function placeOf(slug: string, place: string, line: number): string {
  if (/(^|\.)scheme/.test(place)) return `/labs/${slug}/scheme`;
  if (/(^|\.)(pings|services)/.test(place)) return `/labs/${slug}/pings`;
  return `/labs/${slug}/text?line=${line}`;
}
