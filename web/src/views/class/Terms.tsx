import { useState } from "react";
import { Link } from "react-router";
import type { Schemas } from "../../api/client";
import { useTerms } from "../../api/queries";
import { count } from "../../design/words";

type View = Schemas["TermsView"];

const percent = (part: number | null) => (part === null ? "–" : `${Math.round(100 * part)} %`);
const figure = (value: number | null) => (value === null ? "–" : value.toFixed(2));

/** The newest sittings of a lab beside each other, when that is asked for: what got better, and what did not. */
export function Terms({ slug }: { slug: string }) {
  const [asked, setAsked] = useState(false);
  const found = useTerms(slug, asked);
  return (
    <>
      <h2>This lab from sitting to sitting</h2>
      {!asked && (
        <button type="button" className="as-link" onClick={() => setAsked(true)}>
          Show its sittings beside each other
        </button>
      )}
      {found.error && <p className="pencil">{found.error.message}</p>}
      {asked && found.isPending && <p className="soft">Adding up …</p>}
      {found.data && <Table slug={slug} view={found.data} />}
    </>
  );
}

function Table({ slug, view }: { slug: string; view: View }) {
  if (view.terms.length < 2)
    return <p className="soft">The lab has been given in {count(view.terms.length, "sitting")} so far.</p>;
  const rows = (name: string, own: (term: Schemas["Term"]) => string): Row => [name, view.terms.map(own)];
  return (
    <table className="table terms">
      <thead>
        <tr>
          <th scope="col">
            <span className="visually-hidden">What</span>
          </th>
          {view.terms.map((term, n) => (
            <th key={view.sittings[n]?.number} scope="col" className="number">
              <Link to={`/labs/${slug}/class?sitting=${view.sittings[n]?.number ?? 0}`}>{term.title}</Link>
            </th>
          ))}
        </tr>
      </thead>
      <Rows
        rows={[
          rows("papers marked", (term) => String(term.learners)),
          rows("median of the marks", (term) => percent(term.median)),
          rows("mean of the marks", (term) => percent(term.mean)),
          rows("alpha of the scheme", (term) => figure(term.alpha)),
        ]}
      />
      <Rows head="Earned of each task" rows={across(view.tasks)} />
      <Rows head="Papers with each mistake" rows={across(view.slips)} />
      <Rows head="Earned of each criterion" rows={across(view.criteria)} />
    </table>
  );
}

type Row = [name: string, cells: string[]];

const across = (found: View["tasks"]): Row[] => found.map((own) => [own.name, own.parts.map(percent)]);

function Rows({ head, rows }: { head?: string; rows: Row[] }) {
  return (
    <tbody>
      {head !== undefined && (
        <tr>
          <th scope="rowgroup" colSpan={1 + (rows[0]?.[1].length ?? 0)}>
            {head}
          </th>
        </tr>
      )}
      {rows.map(([name, cells]) => (
        <tr key={name}>
          <th scope="row">{name}</th>
          {cells.map((cell, n) => (
            <td key={n} className="number">
              {cell}
            </td>
          ))}
        </tr>
      ))}
    </tbody>
  );
}
