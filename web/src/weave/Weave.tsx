import { useEffect, type MouseEvent, type ReactNode } from "react";
import {
  at,
  boxes,
  columnOf,
  fit,
  knotAt,
  nodeOf,
  prefixes,
  type Geometry,
  type KnotData,
  type WeaveData,
} from "./geometry";
import { beside, traces, type Leg, type Trace } from "./trace";
import { useSize } from "./useSize";
import { WeaveTable } from "./WeaveTable";
import "./weave.css";

interface Props {
  weave: WeaveData;
  selected?: KnotData | undefined;
  onSelect?: (knot: KnotData) => void;
  device?: string | undefined;
  onDevice?: (device: string) => void;
  legs?: Leg[];
  leg?: Leg | undefined;
  onLeg?: (leg: Leg) => void;
  /** A crossing that is looked at, whether a knot stands there or not; and what is typed there. */
  cell?: Cell | undefined;
  onCell?: (cell: Cell) => void;
  onOpen?: (cell: Cell) => void;
  field?: ReactNode;
  /** Where a selection began that reaches to the cell. */
  anchor?: Cell | undefined;
  /** Whether what is said about devices stands below their names. */
  notes?: boolean;
  /** How large it is drawn: 1 fits it into the space there is. */
  zoom?: number;
}

/** A crossing of a column and a row; row -1 is the head, the row behind the last the foot; column -1 the name. */
export interface Cell {
  column: number;
  row: number;
}

/** The chart of a lab: devices are columns, networks are rows, a port in a network is a knot. */
export function Weave({
  weave,
  selected,
  onSelect,
  device,
  onDevice,
  legs = [],
  leg,
  onLeg,
  cell,
  onCell,
  onOpen,
  field,
  anchor,
  notes = false,
  zoom = 1,
}: Props) {
  const { ref, width, height } = useSize<HTMLDivElement>();
  const { ref: heads, height: headed } = useSize<HTMLDivElement>();
  const g = fit(weave, width, height, zoom);
  const lines = traces(weave, g, legs);
  const grouped = boxes(weave);
  const chosen = device === undefined ? -1 : cell ? cell.column : columnOf(weave, device);
  useEffect(() => {
    const chosen = ref.current?.querySelector(".knot.chosen, .cell.chosen, .loopback.chosen");
    chosen?.scrollIntoView({ block: "nearest", inline: "nearest" });
  }, [selected, cell, ref]);
  const under = (event: MouseEvent<SVGSVGElement>): Cell => {
    const box = event.currentTarget.getBoundingClientRect();
    const column = Math.floor((event.clientX - box.left) / g.column);
    return {
      column: Math.min(column, weave.columns.length - 1),
      row: Math.min(Math.floor((event.clientY - box.top) / g.row), weave.rows.length),
    };
  };
  return (
    <div className="weave" ref={ref}>
      <div
        className="weave-sheet"
        style={{ gridTemplateColumns: `${g.names}px ${g.width}px` }}
        aria-hidden="true"
      >
        <div className="weave-corner" />
        <div className={grouped.length > 0 ? "weave-heads grouped" : "weave-heads"} ref={heads}>
          {grouped.map((box) => (
            <span
              key={box.name}
              className="box-name"
              style={{ left: (box.first + 0.2) * g.column, width: (box.last - box.first + 0.6) * g.column }}
            >
              <i>{box.name}</i>
            </span>
          ))}
          {weave.columns.map((column, c) => (
            <button
              key={nodeOf(column)}
              type="button"
              tabIndex={-1}
              title={column.about}
              className={[
                "head",
                c === chosen ? "chosen" : "",
                cell?.row === -1 && cell.column === c ? "at" : "",
              ].join(" ")}
              style={{ width: g.column }}
              onClick={() => (onCell ? onCell({ column: c, row: -1 }) : onDevice?.(column.device))}
            >
              <b>
                {grouped.some((box) => box.name === column.device)
                  ? column.instance || "main"
                  : column.device}
              </b>
              <span>{column.more ? `and ${column.more} more` : column.kind}</span>
              {notes && column.about !== "" && <span className="about-head">{column.about}</span>}
            </button>
          ))}
        </div>
        <div className="weave-names">
          {weave.rows.map((row, r) => (
            <button
              key={row.name + row.prefix}
              type="button"
              tabIndex={-1}
              disabled={onCell === undefined}
              className={cell?.column === -1 && cell.row === r ? "name at" : "name"}
              style={{ height: g.row }}
              onClick={() => onCell?.({ column: -1, row: r })}
            >
              <b>{row.name}</b>
              {prefixes(row).map((prefix) => (
                <span key={prefix}>{prefix}</span>
              ))}
            </button>
          ))}
        </div>
        <svg
          width={g.width}
          height={g.height}
          className="weave-chart"
          style={{ fontSize: 12.5 * clampText(g.scale) }}
          onClick={onCell && ((event) => onCell(under(event)))}
          onDoubleClick={onOpen && ((event) => onOpen(under(event)))}
        >
          <Strokes weave={weave} g={g} />
          <Lines lines={lines} />
          {weave.knots.map((knot) => (
            <Knot
              key={`${knot.column} ${knot.row}`}
              knot={knot}
              g={g}
              round={weave.columns[knot.column]?.kind === "switch"}
              chosen={knot === selected}
              onSelect={onSelect}
            />
          ))}
          {cell !== undefined && anchor !== undefined && (
            <Selection weave={weave} g={g} a={anchor} b={cell} />
          )}
          {cell !== undefined && <Empty weave={weave} g={g} cell={cell} />}
          <Feet weave={weave} g={g} cell={cell} />
          <Marks lines={lines} g={g} leg={leg} onLeg={onLeg} />
          <Translations lines={lines} g={g} leg={leg} />
        </svg>
      </div>
      {field !== undefined && cell !== undefined && (
        <div
          className="weave-field"
          style={{
            left: cell.column < 0 ? 0 : g.names + at(g, cell.column, 0).x - g.half.x - 2,
            top:
              headed + (cell.row >= weave.rows.length ? g.foot + 22 : at(g, 0, Math.max(cell.row, 0)).y - 14),
          }}
        >
          {field}
        </div>
      )}
      <WeaveTable weave={weave} />
    </div>
  );
}

/** What is selected, from where it began to the cursor. */
function Selection({ weave, g, a, b }: { weave: WeaveData; g: Geometry; a: Cell; b: Cell }) {
  const [left, right] = [Math.max(Math.min(a.column, b.column), 0), Math.max(a.column, b.column)];
  const [top, bottom] = [
    Math.max(Math.min(a.row, b.row), 0),
    Math.min(Math.max(a.row, b.row), weave.rows.length - 1),
  ];
  if (bottom < top) return null;
  const first = at(g, left, top);
  const last = at(g, right, bottom);
  return (
    <rect
      className="selection"
      x={first.x - g.column / 2}
      y={first.y - g.row / 2}
      width={last.x - first.x + g.column}
      height={last.y - first.y + g.row}
    />
  );
}

/** The crossing at the cursor, where no knot stands. */
function Empty({ weave, g, cell }: { weave: WeaveData; g: Geometry; cell: Cell }) {
  if (cell.column < 0 || cell.row < 0 || cell.row >= weave.rows.length) return null;
  if (knotAt(weave, cell.column, cell.row) !== undefined) return null;
  const { x, y } = at(g, cell.column, cell.row);
  return (
    <rect
      className="cell chosen"
      x={x - g.half.x}
      y={y - g.half.y}
      width={2 * g.half.x}
      height={2 * g.half.y}
      rx={3}
    />
  );
}

const clampText = (scale: number) => Math.min(1.12, Math.max(0.86, scale));

function Strokes({ weave, g }: { weave: WeaveData; g: Geometry }) {
  return (
    <g className="strokes">
      {weave.columns.map((column, c) => {
        if (column.first === null || column.last === null) return null;
        const { x } = at(g, c, 0);
        const first = at(g, c, column.first).y;
        const last = column.loopbacks.length > 0 ? g.foot : at(g, c, column.last).y;
        return (
          <g key={nodeOf(column)}>
            <line className="lead" x1={x} x2={x} y1={0} y2={first} />
            <line className="column" x1={x} x2={x} y1={first} y2={last} />
          </g>
        );
      })}
      {weave.rows.map((row, r) => {
        const knots = weave.knots.filter((k) => k.row === r);
        const first = at(g, row.first ?? 0, r);
        return (
          <g key={row.name + row.prefix}>
            <line
              className="lead"
              x1={0}
              x2={row.first === null ? g.width : first.x}
              y1={first.y}
              y2={first.y}
            />
            {knots.slice(1).map((knot, n) => {
              const before = knots[n];
              if (before === undefined) return null;
              const down = !knot.up || !before.up ? " down" : "";
              const [x1, x2] = [at(g, before.column, r).x, at(g, knot.column, r).x];
              return row.serial ? (
                <g key={knot.column} className={`serial${down}`}>
                  <line x1={x1} x2={x2} y1={first.y - 2.5} y2={first.y - 2.5} />
                  <line x1={x1} x2={x2} y1={first.y + 2.5} y2={first.y + 2.5} />
                </g>
              ) : (
                <line key={knot.column} className={`row${down}`} x1={x1} x2={x2} y1={first.y} y2={first.y} />
              );
            })}
          </g>
        );
      })}
    </g>
  );
}

interface KnotProps {
  knot: KnotData;
  g: Geometry;
  round: boolean;
  chosen: boolean;
  onSelect: ((knot: KnotData) => void) | undefined;
}

function Knot({ knot, g, round, chosen, onSelect }: KnotProps) {
  const { x, y } = at(g, knot.column, knot.row);
  const { x: w, y: h } = g.half;
  const longest = Math.max(knot.host.length, knot.label.length);
  const wide = longest > 5 ? Math.min(w + 4 * (longest - 5), g.column / 2 - 2) : w;
  return (
    <g
      className={`knot${chosen ? " chosen" : ""}${knot.up ? "" : " down"}`}
      transform={`translate(${x} ${y})`}
      onClick={() => onSelect?.(knot)}
    >
      {chosen && (
        <rect className="halo" x={-wide - 6} y={-h - 6} width={2 * wide + 12} height={2 * h + 12} rx={4} />
      )}
      <rect className="box" x={-wide} y={-h} width={2 * wide} height={2 * h} rx={round ? h : 3} />
      {knot.host === "" ? (
        <text dy="0.35em">{knot.label}</text>
      ) : (
        <>
          <text className="port" y={-h * 0.24}>
            {knot.label}
          </text>
          <text className="host" y={h * 0.62}>
            {knot.host}
          </text>
        </>
      )}
    </g>
  );
}

function Feet({ weave, g, cell }: { weave: WeaveData; g: Geometry; cell: Cell | undefined }) {
  const here = (c: number, n: number) => cell?.column === c && cell.row === weave.rows.length + n;
  return (
    <g className="feet">
      {weave.columns.map((column, c) =>
        column.loopbacks.length === 0 ? null : (
          <g key={nodeOf(column)} transform={`translate(${at(g, c, 0).x} ${g.foot + 5})`}>
            <circle r={5} />
            {column.loopbacks.map((loopback, n) => (
              <g
                key={loopback.name}
                className={here(c, n) ? "loopback chosen" : "loopback"}
                transform={`translate(0 ${20 + n * 30})`}
              >
                <text className="port">
                  {loopback.name}
                  {loopback.on ? "" : " off"}
                </text>
                <text className="foot" y={14}>
                  {loopback.address}
                </text>
              </g>
            ))}
          </g>
        ),
      )}
    </g>
  );
}

const BESIDE = { there: -2.5, back: 4.5, error: 4.5 };

function Lines({ lines }: { lines: Trace[] }) {
  return (
    <g className="lines">
      {lines.map((line) => (
        <polyline key={line.way} className={line.way} points={beside(line.points, BESIDE[line.way])} />
      ))}
    </g>
  );
}

interface MarksProps {
  lines: Trace[];
  g: Geometry;
  leg: Leg | undefined;
  onLeg: ((leg: Leg) => void) | undefined;
}

/** The numbers of the legs, beside their knots, and a bar where a packet ended. */
function Marks({ lines, g, leg, onLeg }: MarksProps) {
  return (
    <g className="marks">
      {lines.flatMap((line) =>
        line.marks.map(({ leg: own, knot }) => {
          const { x, y } = at(g, knot.column, knot.row);
          const side = line.way === "there" ? -1 : 1;
          return (
            <g
              key={own.number}
              className={`mark${own === leg ? " chosen" : ""}${own.ended ? " ended" : ""}`}
              transform={`translate(${x + side * (g.half.x + 3)} ${y + side * (g.half.y - 1)})`}
              onClick={() => onLeg?.(own)}
            >
              <circle r={10.5} />
              <text dy="0.35em">{own.number}</text>
            </g>
          );
        }),
      )}
    </g>
  );
}

/** The pair of addresses where a translation changes them, on the way that is being read. */
function Translations({ lines, g, leg }: { lines: Trace[]; g: Geometry; leg: Leg | undefined }) {
  const marks = lines.find((line) => line.way === leg?.way)?.marks ?? [];
  return (
    <g className="translations" aria-hidden="true">
      {marks.flatMap(({ leg: own, knot }) =>
        own.rewritten.map((done, n) => {
          const { x, y } = at(g, knot.column, knot.row);
          const left = x > g.width / 2; // towards the middle, so that nothing is cut off
          const place = x + (left ? -11 : 12);
          return (
            <text
              key={`${own.number} ${done.end}`}
              style={{ textAnchor: left ? "end" : "start" }}
              y={y + g.half.y + 20 + n * 30}
            >
              <tspan x={place}>{done.before}</tspan>
              <tspan x={place} dy={14}>
                → {done.after}
              </tspan>
            </text>
          );
        }),
      )}
    </g>
  );
}
