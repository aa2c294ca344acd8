import type { Schemas } from "../../api/client";

export type Row = Schemas["LearnerRow"];

/** By what the grid is sorted: the name, the total, a task by its number, or how many mistakes. */
export type By = "learner" | "total" | "mistakes" | number;

export interface Order {
  by: By;
  falling: boolean;
}

const valueOf = (row: Row, by: By): string | number =>
  by === "learner"
    ? row.learner.toLocaleLowerCase()
    : by === "total"
      ? row.carried
      : by === "mistakes"
        ? row.mistakes.length
        : (row.tasks[by] ?? 0);

/** Sorts rows; those that are equal stand by name. */
export function sorted(rows: Row[], order: Order): Row[] {
  const sign = order.falling ? -1 : 1;
  return [...rows].sort((a, b) => {
    const [x, y] = [valueOf(a, order.by), valueOf(b, order.by)];
    const compared =
      typeof x === "string" && typeof y === "string" ? x.localeCompare(y) : Number(x) - Number(y);
    return sign * compared || a.learner.localeCompare(b.learner);
  });
}

/** Keeps the rows whose name holds a text, and that have a mistake where one is chosen. */
export const filtered = (rows: Row[], text: string, mistake: string) =>
  rows.filter(
    (row) =>
      row.learner.toLocaleLowerCase().includes(text.trim().toLocaleLowerCase()) &&
      (mistake === "" || row.mistakes.includes(mistake)),
  );

/** Shortens titles that begin alike to what tells them apart: `Addresses and ports of lock` to `lock`. */
export function shortened(titles: string[]): string[] {
  const words = titles.map((title) => title.split(" "));
  return words.map((own, n) => {
    let shared = 0;
    words.forEach((other, m) => {
      if (m === n) return;
      let same = 0;
      while (same < own.length - 1 && own[same] === other[same]) same++;
      shared = Math.max(shared, same);
    });
    return shared < 2 ? own.join(" ") : own.slice(shared).join(" ");
  });
}
