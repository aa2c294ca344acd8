import { Fragment, useEffect, useRef } from "react";
import type { Schemas } from "../../api/client";

export interface GridCell {
  source: number;
  target: number;
}

interface Props {
  pairs: Schemas["PairsView"];
  pings: Schemas["PingRow"][];
  cell: GridCell;
  onCell: (cell: GridCell) => void;
  onOpen: () => void;
}

const WORDS: Record<string, string> = {
  reply: "reply",
  timeout: "time-out",
  unreachable: "unreachable",
  "no-route": "no route",
};

/** Everybody to everybody: what comes of each ping, and in bold what is expected of it. */
export function Grid({ pairs, pings, cell, onCell, onOpen }: Props) {
  const table = useRef<HTMLTableElement>(null);
  useEffect(() => {
    table.current?.querySelector("td.at")?.scrollIntoView({ block: "nearest", inline: "nearest" });
  }, [cell]);
  const listed = new Map(pings.filter((p) => p.source === null).map((p) => [`${p.from} ${p.to}`, p]));
  const found = new Map(pairs.rows.map((row) => [`${row.from} ${row.to}`, row]));
  return (
    <div className="pairs">
      <table ref={table}>
        <caption className="visually-hidden">Pings from each device to each other</caption>
        <thead>
          <tr>
            <td />
            {pairs.targets.map((target) => (
              <th key={target} scope="col">
                {target}
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {pairs.sources.map((source, s) => (
            <tr key={source}>
              <th scope="row">{source}</th>
              {pairs.targets.map((target, t) => {
                const row = found.get(`${source} ${target}`);
                const ping = listed.get(`${source} ${target}`);
                if (row === undefined) return <td key={target} className={at(cell, s, t)} />;
                return (
                  <td key={target} className={at(cell, s, t)}>
                    <button
                      type="button"
                      tabIndex={s === cell.source && t === cell.target ? 0 : -1}
                      className={[row.outcome === "reply" ? "reply" : "lost", ping ? "listed" : ""].join(" ")}
                      onClick={() => onCell({ source: s, target: t })}
                      onDoubleClick={onOpen}
                    >
                      {WORDS[row.outcome] ?? row.outcome}
                      {ping && ping.as_expected === false && (
                        <Fragment>
                          <br />
                          <span className="differs">not {ping.expect}</span>
                        </Fragment>
                      )}
                    </button>
                  </td>
                );
              })}
            </tr>
          ))}
        </tbody>
      </table>
    </div>
  );
}

const at = (cell: GridCell, s: number, t: number) => (cell.source === s && cell.target === t ? "at" : "");
