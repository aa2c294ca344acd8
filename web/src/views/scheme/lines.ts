import type { Schemas } from "../../api/client";

/** A line of the scheme: a task, or a criterion of it; `number` is its place among `of` of its kind. */
export interface SchemeLine {
  task: number;
  number: number;
  of: number;
  place: string;
  title: string;
  marks: number;
  criterion?: Schemas["CriterionRow"];
  /** Whether the entry asks for all pings, or all checks, so that its marks are those of each. */
  each: boolean;
}

/** Lists tasks and criteria as they stand; where the scheme is derived, at the places that they will have. */
export function linesOf(scheme: Schemas["SchemeRows"]): SchemeLine[] {
  return scheme.tasks.flatMap((task, t) => {
    const place = task.place || `${scheme.place}.tasks[${t}]`;
    const entries = [
      ...new Set(task.criteria.map((c, n) => c.place || derivedPlace(place, task.criteria, n))),
    ];
    return [
      {
        task: t,
        number: t,
        of: scheme.tasks.length,
        place,
        title: task.title,
        marks: task.marks,
        each: false,
      },
      ...task.criteria.map((criterion, n): SchemeLine => {
        const own = criterion.place || derivedPlace(place, task.criteria, n);
        return {
          task: t,
          number: entries.indexOf(own),
          of: entries.length,
          place: own,
          title: task.title,
          marks: criterion.marks,
          criterion,
          each:
            "pings" in criterion.further ||
            "services" in criterion.further ||
            (criterion.place === "" && isRun(criterion)),
        };
      }),
    ];
  });
}

const isRun = (criterion: Schemas["CriterionRow"]) => criterion.key === "ping" || criterion.key === "check";

/** Written out, all pings of a task are one entry, and all checks. */
function derivedPlace(task: string, criteria: Schemas["CriterionRow"][], at: number): string {
  const own = criteria[at];
  if (own && isRun(own)) return `${task}.criteria[${criteria.findIndex((c) => c.key === own.key)}]`;
  return `${task}.criteria[${at}]`;
}
