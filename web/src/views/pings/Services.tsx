import type { Schemas } from "../../api/client";

/** Service checks with what came of them: who opens what, or looks up which name. */
export function Services({ rows }: { rows: Schemas["ServiceRow"][] }) {
  if (rows.length === 0) return null;
  return (
    <>
      <h2 className="mt-4">Services and names</h2>
      <table className="table rows">
        <thead>
          <tr>
            <th scope="col">Check</th>
            <th scope="col">From</th>
            <th scope="col">Opens or looks up</th>
            <th scope="col">Expected</th>
            <th scope="col">Found</th>
          </tr>
        </thead>
        <tbody>
          {rows.map((row) => (
            <tr key={row.id}>
              <td className="mono">{row.id}</td>
              <td className="mono">{row.from}</td>
              <td className="mono">{row.open ?? row.resolve}</td>
              <td>{row.expect}</td>
              <td>
                {row.as_expected === false ? <b>{row.outcome}</b> : row.outcome}
                {row.resolve != null && row.address !== null && <code> {row.address}</code>}
                <span className="soft">, {row.detail}</span>
              </td>
            </tr>
          ))}
        </tbody>
      </table>
    </>
  );
}
