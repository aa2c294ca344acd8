import type { Schemas } from "../api/client";

/** A device; `more` are the hosts of its network that are folded into it. */
export type ColumnData = Schemas["ColumnShape"] & { more?: number };
export type WeaveData = Omit<Schemas["WeaveShape"], "columns"> & { columns: ColumnData[] };
export type KnotData = Schemas["KnotShape"];

export interface Point {
  x: number;
  y: number;
}

/** Where everything of a weave stands, in pixels of its drawing. */
export interface Geometry {
  column: number;
  row: number;
  width: number;
  height: number;
  /** Half of a knot's width and height. */
  half: Point;
  foot: number;
  /** 1 at the size of the reference chart; text follows it within bounds. */
  scale: number;
  names: number;
}

/** The prefixes of a network, each on a line of its own. */
export const prefixes = (row: WeaveData["rows"][number]) => row.prefix.split(", ");

const clamp = (value: number, low: number, high: number) => Math.min(high, Math.max(low, value));

/** Room at the right for the numbers of legs and the addresses of loopbacks. */
const EDGE = 14;

/** Fits the chart into the space there is; small labs stand larger, large ones scroll. */
export function fit(weave: WeaveData, width: number, height: number, zoom = 1): Geometry {
  const longest = Math.max(...weave.rows.flatMap((r) => [r.name, ...prefixes(r)].map((t) => t.length)), 8);
  const names = clamp(longest * 7.6 + 22, 120, 190);
  const loopbacks = Math.max(...weave.columns.map((c) => c.loopbacks.length), 0);
  const column = clamp((width - names - EDGE) / Math.max(weave.columns.length, 1), 54, 118) * zoom;
  const below = loopbacks > 0 ? 34 + loopbacks * 30 : 12;
  const row = clamp((height - 60 - below) / Math.max(weave.rows.length, 1), 46, 84) * zoom;
  const scale = clamp(Math.min(column / 72, row / 59), Math.min(0.8, 0.8 * zoom), Math.max(1.3, 1.3 * zoom));
  return {
    column,
    row,
    scale,
    names,
    width: column * weave.columns.length + EDGE,
    height: row * weave.rows.length + below,
    half: { x: Math.min(26 * scale, column / 2 - 5), y: 18.5 * scale },
    foot: row * weave.rows.length + 6,
  };
}

export const at = (g: Geometry, column: number, row: number): Point => ({
  x: (column + 0.5) * g.column,
  y: (row + 0.5) * g.row,
});

export const knotAt = (weave: WeaveData, column: number, row: number) =>
  weave.knots.find((k) => k.column === column && k.row === row);

/** The column of a device, or of the box that a network instance (`box/instance`) belongs to; -1 for none. */
export function columnOf(weave: WeaveData, node: string): number {
  const [box, instance = ""] = node.split("/");
  const own = weave.columns.findIndex((c) => c.device === box && c.instance === instance);
  return own >= 0 ? own : weave.columns.findIndex((c) => c.device === box);
}

/** The name of a column's node: the device's, or `box/instance`. */
export const nodeOf = (column: ColumnData) =>
  column.instance === "" ? column.device : `${column.device}/${column.instance}`;

/** Boxes of which several instances are columns, each with its first and its last one. */
export function boxes(weave: WeaveData): { name: string; first: number; last: number }[] {
  const names = new Set(weave.columns.filter((c) => c.instance !== "").map((c) => c.device));
  return [...names].map((name) => {
    const own = weave.columns.flatMap((c, n) => (c.device === name ? [n] : []));
    return { name, first: Math.min(...own), last: Math.max(...own) };
  });
}

/** Finds the knot of a device's port, or any knot of the device. */
export function knotOf(weave: WeaveData, device: string, port?: string | null): KnotData | undefined {
  const column = columnOf(weave, device);
  const knots = weave.knots.filter((k) => k.column === column);
  return port == null ? knots[0] : knots.find((k) => k.ports.includes(port));
}

export type Direction = "up" | "down" | "left" | "right";

/** Finds the next knot in a direction: first along the stroke, else the nearest on that side. */
export function next(weave: WeaveData, from: KnotData, direction: Direction): KnotData {
  const across = direction === "left" || direction === "right";
  const sign = direction === "left" || direction === "up" ? -1 : 1;
  const ahead = (k: KnotData) => sign * (across ? k.column - from.column : k.row - from.row);
  const aside = (k: KnotData) => Math.abs(across ? k.row - from.row : k.column - from.column);
  const cost = (k: KnotData) => ahead(k) + aside(k) * 3 + (aside(k) > 0 ? 4 : 0);
  const candidates = weave.knots.filter((k) => ahead(k) > 0);
  return (
    candidates.reduce<KnotData | undefined>(
      (best, k) => (best === undefined || cost(k) < cost(best) ? k : best),
      undefined,
    ) ?? from
  );
}
