import type { Schemas } from "../../api/client";

export type Row = Schemas["LearnerRow"];
type View = Schemas["ClassView"];

/** A column of marks: a task, or a criterion of one that was opened. */
export interface Column {
  of: "tasks" | "criteria";
  index: number;
  name: string;
  task: string;
  marks: number;
}

/** The columns of marks: each task, and in place of one that is opened its criteria. */
export const columnsOf = (view: View, opened: string): Column[] =>
  view.tasks.flatMap((task, index): Column[] =>
    task.name === opened
      ? view.criteria.flatMap((own, n) =>
          own.task === task.name ? [{ of: "criteria" as const, index: n, ...own }] : [],
        )
      : [{ of: "tasks", index, ...task }],
  );

/** What a learner earned in a column; null where nothing is marked. */
export const earned = (row: Row, column: Column): number | null =>
  row.marked?.[column.of][column.index] ?? null;

/** By what the grid is sorted: the name, the total, how many mistakes, or the name of a column. */
export interface Order {
  by: string;
  falling: boolean;
}
export const NAME = " learner";
export const TOTAL = " total";
export const MISTAKES = " mistakes";

function valueOf(row: Row, by: string, columns: Column[]): string | number {
  if (by === NAME) return row.learner.toLocaleLowerCase();
  if (by === MISTAKES) return row.marked === null ? -1 : row.mistakes.length;
  const column = columns.find((own) => own.name === by);
  return (column === undefined ? row.marked?.carried : earned(row, column)) ?? -1;
}

/** Sorts rows: what is doubtful on top, then by a column; those that are equal stand by name. */
export function sorted(rows: Row[], order: Order, columns: Column[]): Row[] {
  const sign = order.falling ? -1 : 1;
  const keyed = rows.map((row) => ({ row, value: valueOf(row, order.by, columns) }));
  keyed.sort((a, b) => {
    const doubtful = Number(b.row.doubts.length > 0) - Number(a.row.doubts.length > 0);
    const compared =
      typeof a.value === "string" && typeof b.value === "string"
        ? a.value.localeCompare(b.value)
        : Number(a.value) - Number(b.value);
    return doubtful || sign * compared || a.row.learner.localeCompare(b.row.learner);
  });
  return keyed.map(({ row }) => row);
}

/** What is shown of a class. */
export interface Filter {
  text: string;
  mistake: string;
  group: string;
  /** How it was handed in. */
  arrived: "" | "late" | "in time" | "awaited" | "doubtful" | "overruled";
  verdict: "" | "met" | "partly" | "missed";
  /** The task or criterion that the verdict is of. */
  column: string;
}
export const ALL: Filter = { text: "", mistake: "", group: "", arrived: "", verdict: "", column: "" };

const ARRIVED: Record<Exclude<Filter["arrived"], "">, (row: Row) => boolean> = {
  late: (row) => row.days_late > 0,
  "in time": (row) => row.paper !== null && row.days_late === 0,
  awaited: (row) => row.paper === null,
  doubtful: (row) => row.doubts.length > 0,
  overruled: (row) => row.overruled,
};

function verdictOf(row: Row, columns: Column[], name: string): Filter["verdict"] {
  const column = columns.find((own) => own.name === name);
  const got = column === undefined ? (row.marked?.carried ?? null) : earned(row, column);
  const most = column === undefined ? columns.reduce((sum, own) => sum + own.marks, 0) : column.marks;
  return got === null ? "" : got >= most - 0.005 ? "met" : got > 0 ? "partly" : "missed";
}

/** Keeps the rows that a filter asks for. */
export function filtered(rows: Row[], filter: Filter, columns: Column[]): Row[] {
  const text = filter.text.trim().toLocaleLowerCase();
  return rows.filter(
    (row) =>
      row.learner.toLocaleLowerCase().includes(text) &&
      (filter.mistake === "" || row.mistakes.includes(filter.mistake)) &&
      (filter.group === "" || row.group === filter.group) &&
      (filter.arrived === "" || ARRIVED[filter.arrived](row)) &&
      (filter.verdict === "" || verdictOf(row, columns, filter.column) === filter.verdict),
  );
}

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
