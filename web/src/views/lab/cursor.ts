import type { Look } from "../../authoring/calls";
import { knotAt, nodeOf, type Direction, type KnotData, type WeaveData } from "../../weave/geometry";
import type { Cell } from "../../weave/Weave";

/** What stands at a cell of the weave. */
export type Place =
  | { kind: "device"; device: string }
  | { kind: "network"; row: number }
  | { kind: "knot"; device: string; row: number; knot: KnotData }
  | { kind: "crossing"; device: string; node: string; row: number }
  | { kind: "loopback"; device: string; name: string; address: string };

/** Tells what stands at a cell; below the last row are the loopbacks, and one more that may be added. */
export function placeAt(weave: WeaveData, cell: Cell): Place | undefined {
  if (cell.column < 0) return weave.rows[cell.row] && { kind: "network", row: cell.row };
  const column = weave.columns[cell.column];
  if (column === undefined) return undefined;
  const { device } = column;
  if (cell.row < 0) return { kind: "device", device };
  if (cell.row >= weave.rows.length) {
    const number = cell.row - weave.rows.length;
    const known = column.loopbacks[number];
    return {
      kind: "loopback",
      device,
      name: known?.name ?? freeLoopback(column.loopbacks.map((l) => l.name)),
      address: known?.address ?? "",
    };
  }
  const knot = knotAt(weave, cell.column, cell.row);
  return knot
    ? { kind: "knot", device, row: cell.row, knot }
    : { kind: "crossing", device, node: nodeOf(column), row: cell.row };
}

const freeLoopback = (names: string[]) => {
  let number = 0;
  while (names.includes(`lo${number}`)) number++;
  return `lo${number}`;
};

const clamp = (value: number, low: number, high: number) => Math.min(high, Math.max(low, value));

/** Moves by one cell: up to the heads, left to the names, down to the loopbacks and the place of one more. */
export function moved(weave: WeaveData, cell: Cell, way: Direction): Cell {
  const column = clamp(
    cell.column + (way === "left" ? -1 : way === "right" ? 1 : 0),
    weave.rows.length > 0 ? -1 : 0,
    weave.columns.length - 1,
  );
  const lowest = weave.rows.length + (weave.columns[column]?.loopbacks.length ?? -1);
  const row = cell.row + (way === "up" ? -1 : way === "down" ? 1 : 0);
  return { column, row: clamp(row, column < 0 ? 0 : -1, lowest) };
}

/** Keeps the cursor at the same device and network where the chart is drawn anew. */
export function follow(before: WeaveData, after: WeaveData, cell: Cell): Cell {
  const own = before.columns[cell.column];
  const node = own && nodeOf(own);
  const column = cell.column < 0 ? -1 : after.columns.findIndex((c) => nodeOf(c) === node);
  if (cell.row < 0 || column === -1)
    return { column: Math.max(column, cell.column < 0 ? -1 : 0), row: clampRow(after, before, cell) };
  return { column, row: clampRow(after, before, cell) };
}

function clampRow(after: WeaveData, before: WeaveData, cell: Cell): number {
  const row = before.rows[cell.row];
  if (cell.row < 0) return -1;
  if (row === undefined) return after.rows.length + cell.row - before.rows.length;
  const same =
    rowOf(after, (r) => r.prefix !== "" && r.prefix === row.prefix) ??
    rowOf(after, (r) => r.name === row.name) ??
    rowWith(after, before, cell.row);
  return same ?? clamp(cell.row, 0, Math.max(after.rows.length - 1, 0));
}

const rowOf = (weave: WeaveData, fits: (row: WeaveData["rows"][number]) => boolean) => {
  const found = weave.rows.findIndex(fits);
  return found < 0 ? undefined : found;
};

/** Finds the row in which a port of another row stands now. */
function rowWith(after: WeaveData, before: WeaveData, row: number): number | undefined {
  for (const knot of before.knots.filter((k) => k.row === row)) {
    const device = before.columns[knot.column]?.device;
    const found = after.knots.find(
      (k) => after.columns[k.column]?.device === device && k.ports.some((p) => knot.ports.includes(p)),
    );
    if (found) return found.row;
  }
  return undefined;
}

/** The port that is meant at a place: the first of a knot, or the loopback. */
export const portAt = (place: Place | undefined): { device: string; port: string } | undefined =>
  place?.kind === "knot"
    ? { device: place.device, port: place.knot.ports.at(-1) ?? "" }
    : place?.kind === "loopback"
      ? { device: place.device, port: place.name }
      : undefined;

/** The prefixes of a row. */
export const prefixesOf = (weave: WeaveData, row: number): string[] =>
  (weave.rows[row]?.prefix ?? "").split(", ").filter((prefix) => prefix !== "");

/** Finds a device, a network or an address by a part of its name. */
export function found(look: Look, text: string): Cell | undefined {
  const { weave, ports } = look;
  const part = text.trim().toLowerCase();
  if (part === "") return undefined;
  const has = (name: string) => name.toLowerCase().startsWith(part);
  const column = weave.columns.findIndex((c) => has(c.device));
  if (column >= 0) return { column, row: -1 };
  const row = weave.rows.findIndex((r) => has(r.name) || r.prefix.includes(part));
  if (row >= 0) return { column: -1, row };
  const device = Object.entries(ports).find(([, own]) =>
    own.some((p) => p.addresses.some((a) => a.startsWith(part))),
  );
  const at = weave.columns.findIndex((c) => c.device === device?.[0]);
  const knot = weave.knots.find((k) => k.column === at && (k.address ?? "").startsWith(part));
  return at < 0 ? undefined : { column: at, row: knot?.row ?? weave.rows.length };
}

/** The knots that a selection holds, row by row; without one the knot at the cursor. */
export function selected(weave: WeaveData, anchor: Cell | undefined, cell: Cell): KnotData[] {
  const from = anchor ?? cell;
  const within = (value: number, a: number, b: number) => value >= Math.min(a, b) && value <= Math.max(a, b);
  return weave.knots.filter(
    (k) => within(k.column, from.column, cell.column) && within(k.row, from.row, cell.row),
  );
}

/** The address that stands so many behind one, of IPv4; others stay. */
export function behind(typed: string, by: number): string {
  const found = /^(.*?)(\d+)((?:\/.*)?)$/.exec(typed);
  return found === null || typed.includes(":") || by === 0
    ? typed
    : `${found[1] ?? ""}${Number(found[2]) + by}${found[3] ?? ""}`;
}
