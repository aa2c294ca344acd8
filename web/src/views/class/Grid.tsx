import { useVirtualizer } from "@tanstack/react-virtual";
import { useEffect, useRef, useState, type CSSProperties, type ReactNode } from "react";
import { Link } from "react-router";
import { count, inSentence, marks } from "../../design/words";
import { earned, MISTAKES, NAME, shortened, TOTAL, type Column, type Order, type Row } from "./order";

const ROW = 33;

interface Props {
  rows: Row[];
  columns: Column[];
  outOf: number;
  order: Order;
  at: number;
  /** The column at the cursor. */
  across: number;
  opened: string;
  onSort: (by: string) => void;
  onAt: (at: number, across: number) => void;
  onOpen: (task: string) => void;
}

/** Learners down, tasks across: only the rows in sight are there, and all of them on paper. */
export function Grid({ rows, columns, outOf, order, at, across, opened, onSort, onAt, onOpen }: Props) {
  const scroll = useRef<HTMLDivElement>(null);
  const printing = usePrinting();
  // eslint-disable-next-line react-hooks/incompatible-library -- nothing here is memoized by a compiler
  const virtual = useVirtualizer({
    count: rows.length,
    getScrollElement: () => scroll.current,
    estimateSize: () => ROW,
    overscan: 12,
  });
  useEffect(() => {
    if (rows.length > 0) virtual.scrollToIndex(at, { align: "auto" });
    // eslint-disable-next-line react-hooks/exhaustive-deps -- only where the cursor moves
  }, [at]);
  const short = shortened(columns.map((column) => column.name));
  const shown = printing
    ? rows.map((_, index) => ({ index, start: index * ROW, end: (index + 1) * ROW }))
    : virtual.getVirtualItems();
  const above = shown[0]?.start ?? 0;
  const below = printing ? 0 : virtual.getTotalSize() - (shown.at(-1)?.end ?? 0);
  const head = (by: string, label: string, worth?: number, task?: string) => (
    <th
      key={by}
      scope="col"
      className={by === NAME || by === MISTAKES ? "" : "number"}
      aria-sort={order.by === by ? (order.falling ? "descending" : "ascending") : undefined}
    >
      <button type="button" className="sort" title={by.trim()} onClick={() => onSort(by)}>
        {label}
        {order.by === by && <span aria-hidden="true">{order.falling ? "\u00a0↓" : "\u00a0↑"}</span>}
      </button>
      {worth !== undefined && <span className="soft d-block">of {marks(worth)}</span>}
      {task !== undefined && (
        <button type="button" className="as-link unfold" onClick={() => onOpen(task === opened ? "" : task)}>
          {task === opened ? "as one" : "criteria"}
        </button>
      )}
    </th>
  );
  return (
    <div className="class-wide" ref={scroll}>
      <table className="table rows class-grid" aria-rowcount={rows.length + 1}>
        <thead>
          <tr>
            {head(NAME, "Learner")}
            {columns.map((column, n) =>
              head(
                column.name,
                short[n] ?? column.name,
                column.marks,
                column.of === "tasks" || columns[n - 1]?.task !== column.task ? column.task : undefined,
              ),
            )}
            {head(TOTAL, "Total", outOf)}
            {head(MISTAKES, "Mistakes")}
          </tr>
        </thead>
        <tbody>
          <Gap height={above} />
          {shown.map(({ index }) => {
            const row = rows[index];
            if (row === undefined) return null;
            return (
              <tr
                key={row.paper ?? row.learner}
                aria-rowindex={index + 2}
                aria-current={index === at}
                onClick={() => onAt(index, across)}
              >
                <td>
                  {row.doubts.length > 0 && (
                    <span className="pencil doubt">
                      <span aria-hidden="true">?</span>
                      <span className="visually-hidden">to be looked at:</span>
                    </span>
                  )}
                  {row.paper === null ? (
                    <span className="soft">{row.learner}</span>
                  ) : (
                    <Link to={`/papers/${row.paper}`}>{row.learner}</Link>
                  )}
                </td>
                {row.marked === null ? (
                  <td colSpan={columns.length + 2} className="soft">
                    {row.paper === null ? "nothing that counts yet" : "not marked yet"}
                    {late(row)}
                  </td>
                ) : (
                  <>
                    {columns.map((column, n) => (
                      <td
                        key={column.name}
                        className="number"
                        aria-current={index === at && n === across ? "location" : undefined}
                        onClick={(event) => {
                          event.stopPropagation();
                          onAt(index, n);
                        }}
                      >
                        <Ink share={(earned(row, column) ?? 0) / (column.marks || 1)}>
                          {marks(earned(row, column) ?? 0)}
                        </Ink>
                      </td>
                    ))}
                    <td className="number">
                      <b>{marks(row.marked.carried)}</b>
                      {row.marked.grade !== null && <span className="soft"> {row.marked.grade}</span>}
                      {row.overruled && <span className="visually-hidden"> overruled</span>}
                    </td>
                    <td className="soft mistakes" title={row.mistakes.join(", ")}>
                      {inShort(row.mistakes)}
                      {late(row)}
                    </td>
                  </>
                )}
              </tr>
            );
          })}
          <Gap height={below} />
        </tbody>
      </table>
    </div>
  );
}

const late = (row: Row) => row.days_late > 0 && <span>, {count(row.days_late, "day")} late</span>;

/** The first of several mistakes, and how many more. */
function inShort(mistakes: string[]): string {
  const [first] = mistakes;
  if (first === undefined) return "none";
  return mistakes.length === 1 ? inSentence(first) : `${inSentence(first)}, ${mistakes.length - 1} more`;
}

/** What stands for the rows that are not in sight. */
const Gap = ({ height }: { height: number }) =>
  height > 0 && (
    <tr aria-hidden="true" className="gap">
      <td style={{ height }} />
    </tr>
  );

/** A share as an amount of ink behind its number. */
const Ink = ({ share, children }: { share: number; children: ReactNode }) => (
  <span
    className="ink"
    style={{ "--share": `${Math.round(100 * Math.min(1, Math.max(0, share)))}%` } as CSSProperties}
  >
    {children}
  </span>
);

/** Whether the page is being printed. */
function usePrinting(): boolean {
  const [printing, setPrinting] = useState(false);
  useEffect(() => {
    const begin = () => setPrinting(true);
    const end = () => setPrinting(false);
    window.addEventListener("beforeprint", begin);
    window.addEventListener("afterprint", end);
    return () => {
      window.removeEventListener("beforeprint", begin);
      window.removeEventListener("afterprint", end);
    };
  }, []);
  return printing;
}
