import type { Schemas } from "../api/client";
import { at, columnOf, knotOf, type Geometry, type KnotData, type Point, type WeaveData } from "./geometry";

export type Leg = Schemas["Leg"];

/** One way of a journey on the chart: its corners, and the knot at which each leg is told. */
export interface Trace {
  way: Leg["way"];
  points: Point[];
  marks: { leg: Leg; knot: KnotData }[];
  /** Whether the packet ended before it arrived. */
  ended: boolean;
}

/** Draws the ways of a journey along columns and rows, each from its first knot. */
export function traces(weave: WeaveData, g: Geometry, legs: Leg[]): Trace[] {
  const ways: Leg["way"][] = ["there", "back", "error"];
  return ways
    .map((way) => legs.filter((leg) => leg.way === way))
    .filter((own) => own.length > 0)
    .map((own) => trace(weave, g, own));
}

function trace(weave: WeaveData, g: Geometry, legs: Leg[]): Trace {
  const points: Point[] = [];
  const marks: Trace["marks"] = [];
  const visit = (knot: KnotData | undefined) => {
    if (knot !== undefined) points.push(at(g, knot.column, knot.row));
  };
  for (const leg of legs) {
    const enters = leg.enters === null ? undefined : knotOf(weave, leg.device, leg.enters);
    const leaves = leg.leaves === null ? undefined : knotOf(weave, leg.device, leg.leaves);
    visit(enters);
    if (leaves !== enters) visit(leaves);
    const knot = enters ?? leaves ?? knotOf(weave, leg.device);
    if (knot !== undefined) marks.push({ leg, knot });
  }
  const last = legs.at(-1);
  if (last !== undefined) {
    const foot = toLoopback(weave, g, last);
    if (foot !== null && !last.ended) points.push(foot);
  }
  const first = legs[0];
  const start = first === undefined ? null : fromLoopback(weave, g, first);
  if (start !== null) points.unshift(start);
  return { way: legs[0]?.way ?? "there", points, marks, ended: legs.some((leg) => leg.ended) };
}

const foot = (weave: WeaveData, g: Geometry, device: string, address: string): Point | null => {
  const column = columnOf(weave, device);
  const has = weave.columns[column]?.loopbacks.some((l) => l.address === address) ?? false;
  return has ? { x: at(g, column, 0).x, y: g.foot + 6 } : null;
};

const toLoopback = (weave: WeaveData, g: Geometry, leg: Leg) => foot(weave, g, leg.device, leg.destination);
const fromLoopback = (weave: WeaveData, g: Geometry, leg: Leg) => foot(weave, g, leg.device, leg.source);

/** Shifts a line to one side, so that there and back run beside each other. */
export function beside(points: Point[], by: number): string {
  return points.map((p) => `${p.x + by},${p.y + by}`).join(" ");
}
