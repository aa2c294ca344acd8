import { wantedOf } from "../../bench/changes";
import type { BenchLook } from "../../bench/Bench";

interface Props {
  look: BenchLook;
  changed: Set<number>;
  at: number;
  onAt: (at: number) => void;
  onOpen: (number: number) => void;
  onForget: (question: number) => void;
}

/** The lab's pings and checks, and one's own questions behind them; those that turned stand out. */
export function PingsTable({ look, changed, at, onAt, onOpen, onForget }: Props) {
  return (
    <table className="table rows bench-pings">
      <caption className="visually-hidden">Pings and service checks</caption>
      <thead>
        <tr>
          <th scope="col">From</th>
          <th scope="col">To</th>
          <th scope="col">Outcome</th>
          <th scope="col">Where and why</th>
          <th scope="col">
            <span className="visually-hidden">What can be done</span>
          </th>
        </tr>
      </thead>
      <tbody>
        {look.rows.map((row, n) => (
          <tr
            key={n}
            aria-current={n === at}
            className={changed.has(n) ? "turned" : ""}
            onClick={() => onAt(n)}
          >
            <td className="mono">
              <button type="button" className="cell" onClick={() => onOpen(n + 1)}>
                {row.from}
                {row.source !== null && ` ${row.source}`}
              </button>
            </td>
            <td className="mono">{wantedOf(row)}</td>
            <td>
              {row.as_expected === false ? <b>{row.outcome}</b> : row.outcome}
              {row.as_expected === false && <span className="soft">, not {row.expect}</span>}
              {changed.has(n) && <span className="visually-hidden"> (turned with the last edit)</span>}
            </td>
            <td className="soft">{row.detail}</td>
            <td>
              {n >= look.own && (
                <button type="button" className="place" onClick={() => onForget(n - look.own)}>
                  forget
                </button>
              )}
            </td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}
