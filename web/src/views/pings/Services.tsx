import { Link } from "react-router";
import type { Schemas } from "../../api/client";
import { Earned } from "../paper/Earned";

type Service = Schemas["OpenedRow"] | Schemas["ResolvedRow"];

interface Props {
  rows: Service[];
  /** Where the journey of a check is to be had, by its place in the list. */
  link: (n: number) => string;
  /** The criteria of a paper, where the checks are its. */
  criteria?: Schemas["Marked"][];
}

/** Service checks with what came of them: who opens what, or looks up which name. */
export function Services({ rows, link, criteria }: Props) {
  if (rows.length === 0) return null;
  return (
    <>
      <h2 className="mt-4">Services and names</h2>
      <table className={criteria ? "table rows paper-pings" : "table rows"}>
        <thead>
          <tr>
            {criteria && (
              <th scope="col">
                <span className="visually-hidden">Verdict</span>
              </th>
            )}
            <th scope="col">Check</th>
            <th scope="col">From</th>
            <th scope="col">Opens or looks up</th>
            <th scope="col">Expected</th>
            <th scope="col">Found</th>
          </tr>
        </thead>
        <tbody>
          {rows.map((row, n) => (
            <tr key={row.id}>
              {criteria && (
                <td>
                  <Earned criteria={criteria.filter((c) => c.key === "check" && c.operand === row.id)} />
                </td>
              )}
              <td className="mono">{row.id}</td>
              <td className="mono">
                <Link to={link(n)}>{row.from}</Link>
              </td>
              <td className="mono target">{"open" in row ? row.open : row.resolve}</td>
              <td>{row.expect}</td>
              <td>
                {row.as_expected === false ? <b>{row.outcome}</b> : row.outcome}
                {"resolve" in row && row.address !== null && <code> {row.address}</code>}
                <span className="soft">, {row.detail}</span>
              </td>
            </tr>
          ))}
        </tbody>
      </table>
    </>
  );
}
