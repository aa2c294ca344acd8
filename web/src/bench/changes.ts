import type { BenchLook } from "./Bench";

type Row = BenchLook["rows"][number];

export const wantedOf = (row: Row) => ("to" in row ? row.to : "open" in row ? row.open : row.resolve);

/** The numbers of pings and checks that came to something else. */
export function turned(before: BenchLook | null, now: BenchLook): Set<number> {
  if (before === null || before.rows.length !== now.rows.length) return new Set();
  return new Set(
    now.rows.flatMap((row, n) => {
      const was = before.rows[n];
      return was !== undefined && (was.outcome !== row.outcome || was.seen_as !== row.seen_as) ? [n] : [];
    }),
  );
}

/** What is otherwise in one network than in another, in sentences: routes, ports, pings. */
export function differences(before: BenchLook, now: BenchLook): string[] {
  const said: string[] = [];
  for (const [device, state] of Object.entries(now.states)) {
    const was = before.states[device];
    if (was === undefined) continue;
    const ports = new Map(was.ports.map((port) => [port.name, port]));
    for (const port of state.ports) {
      const old = ports.get(port.name);
      if (old && old.up !== port.up)
        said.push(`${device} ${port.name} ${port.up ? "came up" : `went down: ${port.why ?? ""}`}`);
    }
    const [old, own] = [routes(was), routes(state)];
    for (const route of own) if (!old.has(route)) said.push(`${device} gained ${route}`);
    for (const route of old) if (!own.has(route)) said.push(`${device} lost ${route}`);
  }
  for (const n of turned(before, now)) {
    const [was, row] = [before.rows[n], now.rows[n]];
    if (was && row) said.push(`${row.from} to ${wantedOf(row)}: ${was.outcome}, now ${row.outcome}`);
  }
  return said;
}

const routes = (state: BenchLook["states"][string]) =>
  new Set(
    state.routes
      .filter((route) => route.active && route.origin !== "own")
      .map((route) => `${route.prefix} ${wayOf(route)}`),
  );

/** How a route leads away, in words. */
export function wayOf(route: BenchLook["states"][string]["routes"][number]): string {
  if (route.origin === "own" || route.origin === "connected") return `${route.origin}, ${route.port ?? ""}`;
  const via = route.next_hop === null ? "" : ` via ${route.next_hop}`;
  const out = route.port === null ? "" : ` out ${route.port}`;
  return `${route.origin},${via}${out || (via === "" ? " discarded" : "")}`;
}
