import { Link } from "react-router";
import type { Look } from "../../authoring/calls";

interface Props {
  look: Look;
  at: number;
  onAt: (at: number) => void;
  /** Where the journey of an entry is, by its number from 1. */
  link: (number: number) => string;
}

/** The pings and checks in the order in which they run. */
export function List({ look, at, onAt, link }: Props) {
  const rows = [...look.pings, ...look.services];
  return (
    <table className="table rows">
      <thead>
        <tr>
          <th scope="col">Id</th>
          <th scope="col">From</th>
          <th scope="col">To</th>
          <th scope="col">Expected</th>
          <th scope="col">Model answer</th>
          <th scope="col">Learners</th>
        </tr>
      </thead>
      <tbody>
        {rows.map((row, n) => (
          <tr key={`${n} ${row.id}`} aria-current={n === at} onClick={() => onAt(n)}>
            <td className="mono">{row.id}</td>
            <td className="mono">
              <Link to={link(n + 1)}>
                {row.from}
                {row.source !== null && ` ${row.source}`}
              </Link>
            </td>
            <td className="mono target">{"to" in row ? row.to : "open" in row ? row.open : row.resolve}</td>
            <td>{row.expect}</td>
            <td>{row.as_expected === false ? <b>{row.outcome}: does not hold</b> : row.outcome}</td>
            <td className="soft">{look.seen[n] ? "see it" : ""}</td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}
