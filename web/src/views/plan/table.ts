import type { Edit, Look } from "../../authoring/calls";
import type { WeaveData } from "../../weave/geometry";

/** A line of the address plan. */
export interface Line {
  device: string;
  port: string;
  network: string;
  prefixes: string[];
  address: string;
  length: string;
  gateway: string;
  /** Whether it takes its address from a lease or an advertisement. */
  taken: string;
  kind: string;
}

/** Lists every port that bears an address or may bear one, in the order of the lab. */
export function linesOf(look: Look): Line[] {
  const { weave } = look;
  return look.devices.flatMap(({ device, kind, answer, given }) =>
    (look.ports[device] ?? [])
      .filter((port) => kind !== "switch" || port.addresses.length > 0)
      .flatMap((port) => {
        const row = rowOf(weave, device, port.name);
        const sheet = `${given ?? ""}\n${answer ?? ""}`;
        const common = {
          device,
          port: port.name,
          network: row?.name ?? (port.kind === "loopback" ? "loopback" : ""),
          prefixes: row?.prefix.split(", ").filter((p) => p !== "") ?? [],
          gateway: kind === "host" ? gateways(sheet).join(" ") : "",
          kind: port.kind,
        };
        const own = port.addresses.filter((a) => !a.startsWith("fe80:"));
        return (own.length > 0 ? own : [""]).map((whole) => {
          const [address = "", length = ""] = whole.split("/");
          return { ...common, address, length, taken: takenOf(sheet, port.name) };
        });
      }),
  );
}

const rowOf = (weave: WeaveData, device: string, port: string) => {
  const column = weave.columns.findIndex((c) => c.device === device);
  const knot = weave.knots.find((k) => k.column === column && k.ports.includes(port));
  return knot && weave.rows[knot.row];
};

const gateways = (sheet: string) => [...sheet.matchAll(/^gateway (\S+)/gm)].map((found) => found[1] ?? "");

const takenOf = (sheet: string, port: string) => {
  const block = new RegExp(`^port ${port}\\b.*\\n((?: +.*\\n?)*)`, "m").exec(sheet)?.[1] ?? "";
  return /^ +address (dhcp|auto)/m.exec(block)?.[1] ?? "";
};

/** Writes the mask of an IPv4 length in four numbers; a length of IPv6 stays. */
export function dotted(length: string, address: string): string {
  if (length === "" || address.includes(":")) return length === "" ? "" : `/${length}`;
  const ones = Number(length);
  return [0, 8, 16, 24].map((at) => 256 - 2 ** (8 - Math.min(8, Math.max(0, ones - at)))).join(".");
}

export const HEADS = ["device", "port", "network", "address", "mask", "gateway"];

/** The plan as rows of texts, for a spreadsheet. */
export const rowsOf = (lines: Line[]): string[][] => [
  HEADS,
  ...lines.map((l) => [l.device, l.port, l.network, l.address, dotted(l.length, l.address), l.gateway]),
];

/** Writes rows as CSV (RFC 4180); what a spreadsheet would take for a formula is kept from it. */
export const csv = (rows: string[][]) =>
  rows
    .map((row) =>
      row
        .map((cell) => `"${(/^[=+@\t\r-]/.test(cell) ? `'${cell}` : cell).replaceAll('"', '""')}"`)
        .join(","),
    )
    .join("\r\n") + "\r\n";

/** Reads what was copied from a spreadsheet, or a CSV file, as rows of texts. */
export function parse(text: string): string[][] {
  const mark = text.includes("\t") ? "\t" : (text.split("\n")[0] ?? "").includes(";") ? ";" : ",";
  return text
    .split(/\r?\n/)
    .filter((line) => line.trim() !== "")
    .map((line) =>
      line.split(mark).map((cell) =>
        cell
          .trim()
          .replace(/^"(.*)"$/, "$1")
          .replaceAll('""', '"'),
      ),
    );
}

/** Makes edits of pasted rows: by their heads where they have some, else device, port, address, mask, gateway. */
export function editsOf(rows: string[][], side: "given" | "answer", lines: Line[]): Edit[] {
  const first = rows[0]?.map((cell) => cell.toLowerCase()) ?? [];
  const headed = first.includes("device") && first.includes("address");
  const heads = headed ? first : ["device", "port", "address", "mask", "gateway"];
  const cell = (row: string[], head: string) => row[heads.indexOf(head)] ?? "";
  return rows.slice(headed ? 1 : 0).flatMap((row): Edit[] => {
    const [device, port, address] = [cell(row, "device"), cell(row, "port"), cell(row, "address")];
    const mask = cell(row, "mask").replace(/^\//, "");
    const gateway = cell(row, "gateway");
    const line = lines.find((l) => l.device === device && l.port === port);
    const typed = address === "" ? "" : mask === "" ? address : `${address}/${mask}`;
    const edits: Edit[] = [];
    if (typed !== "" && !same(line, address, mask))
      edits.push({ do: "set-address", device, port, typed, prefixes: line?.prefixes ?? [], side });
    if (gateway !== "" && gateway !== line?.gateway)
      edits.push(gatewayEdit(device, gateway, line?.gateway ?? "", side));
    return edits;
  });
}

const same = (line: Line | undefined, address: string, mask: string) =>
  line?.address === address && (mask === "" || mask === line.length || mask === dotted(line.length, address));

/** Writes the gateway of a host, in the place of the one that it has. */
export const gatewayEdit = (
  device: string,
  gateway: string,
  before: string,
  side: "given" | "answer",
): Edit =>
  gateway === ""
    ? { do: "take-statements", device, header: "", statements: [`gateway ${before}`] }
    : {
        do: "put-statements",
        side,
        device,
        header: "",
        statements: [`gateway ${gateway}`],
        instead: before === "" ? "" : `gateway ${before}`,
      };
