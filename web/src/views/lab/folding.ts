import type { Look } from "../../authoring/calls";

/** Folds the hosts of one network together: the first of them stands for all, with how many there are. */
export function folded(look: Look): Look {
  const { weave } = look;
  const rowsOf = (column: number) => weave.knots.filter((k) => k.column === column).map((k) => k.row);
  const first = new Map<number, number>();
  const kept: number[] = [];
  const standing = new Map<number, string[]>();
  weave.columns.forEach((column, c) => {
    const rows = rowsOf(c);
    const row = rows[0];
    if (column.kind !== "host" || rows.length !== 1 || row === undefined || column.loopbacks.length > 0) {
      kept.push(c);
      return;
    }
    const leader = first.get(row);
    if (leader === undefined) {
      first.set(row, c);
      kept.push(c);
    } else standing.set(leader, [...(standing.get(leader) ?? []), column.device]);
  });
  const now = new Map(kept.map((c, n) => [c, n]));
  const near = (c: number | null) =>
    c === null ? null : (now.get(c) ?? Math.max(0, kept.filter((own) => own < c).length - 1));
  return {
    ...look,
    weave: {
      ...weave,
      columns: kept.flatMap((c) => {
        const column = weave.columns[c];
        const others = standing.get(c);
        if (column === undefined) return [];
        return [others ? { ...column, about: `and ${others.join(", ")}`, more: others.length } : column];
      }),
      rows: weave.rows.map((row) => ({ ...row, first: near(row.first), last: near(row.last) })),
      knots: weave.knots.flatMap((knot) => {
        const column = now.get(knot.column);
        return column === undefined ? [] : [{ ...knot, column }];
      }),
    },
  };
}
