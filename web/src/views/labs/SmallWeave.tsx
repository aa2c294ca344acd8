import type { WeaveData } from "../../weave/geometry";

const STEP = { x: 26, y: 17 };

/** A lab's weave small, without words: enough to know it again. */
export function SmallWeave({ weave }: { weave: WeaveData }) {
  const x = (column: number) => (column + 0.5) * STEP.x;
  const y = (row: number) => (row + 0.5) * STEP.y;
  const width = Math.max(weave.columns.length, 1) * STEP.x;
  const height = Math.max(weave.rows.length, 1) * STEP.y;
  return (
    <svg className="small-weave" viewBox={`0 0 ${width} ${height}`}>
      {weave.columns.map((column, c) =>
        column.first === null || column.last === null ? null : (
          <line key={column.device} x1={x(c)} x2={x(c)} y1={y(column.first)} y2={y(column.last)} />
        ),
      )}
      {weave.rows.map((row, r) => (
        <line key={r} x1={x(row.first ?? 0)} x2={x(row.last ?? 0)} y1={y(r)} y2={y(r)} />
      ))}
      {weave.knots.map((knot) => {
        const round = weave.columns[knot.column]?.kind === "switch";
        return (
          <rect
            key={`${knot.column} ${knot.row}`}
            x={x(knot.column) - 8}
            y={y(knot.row) - 5}
            width={16}
            height={10}
            rx={round ? 5 : 1.5}
          />
        );
      })}
    </svg>
  );
}
