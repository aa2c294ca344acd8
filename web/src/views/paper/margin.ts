import type { Schemas } from "../../api/client";
import { linesOf } from "../../sheet/SheetText";

export type Criterion = Schemas["CriterionShape"];
export type Fault = Schemas["FaultShape"];
type Remark = Schemas["RemarkShape"];

/** A line of the marked sheet: the learner's own, or one that the marker pencils in. */
export interface MarkedLine {
  number: number | null;
  text: string;
  criteria: Criterion[];
  faults: Fault[];
  /** Faults that have their line elsewhere, and this one belongs to. */
  also: Fault[];
  remarks: Remark[];
}

export interface Margin {
  lines: MarkedLine[];
  /** Criteria about the device that no line of the sheet shows. */
  others: Criterion[];
}

/** Slips that are about whole sheets. */
export const WHOLE = ["sheet-missing", "sheet-handed-in-for-the-wrong-device", "two-sheets-exchanged"];

/** Lays the marks of one device beside the lines of its sheet; what is missing is pencilled in. */
export function margin(text: string, file: string, device: string, result: Schemas["ResultShape"]): Margin {
  const lines: MarkedLine[] = linesOf(text).map((line, n) => ({
    number: n + 1,
    text: line,
    criteria: [],
    faults: [],
    also: result.faults.filter((f) => f.also.some((l) => l.file === file && l.line === n + 1)),
    remarks: result.diagnostics.filter(
      (d) => d.device === device && d.line === n + 1 && d.severity !== "note",
    ),
  }));
  const faults = result.faults.filter((f) => !WHOLE.includes(f.slip) && isOf(f, file, device));
  const others: Criterion[] = [];
  const pencilled = new Map<number, MarkedLine>();
  for (const fault of faults) {
    const own = lines.find((l) => l.number !== null && l.number === fault.line && fault.file === file);
    if (fault.found !== null && own !== undefined) own.faults.push(fault);
    else pencilled.set(fault.id, pencilIn(lines, fault, own?.number ?? null));
  }
  for (const criterion of result.criteria) {
    if (criterion.device !== device) continue;
    const fault = faults.find((f) => f.id === criterion.fault);
    const missing = fault && pencilled.get(fault.id);
    const proved = criterion.lines.find((l) => l.file === file);
    const line = missing ?? lineOf(lines, proved?.line ?? fault?.line ?? null);
    (line?.criteria ?? others).push(criterion);
  }
  return { lines, others };
}

/** Whether a fault is shown in a sheet: its line stands there, or it has none and is about the device. */
export const isOf = (fault: Fault, file: string, device: string) =>
  fault.line === null || fault.file === null ? fault.device === device : fault.file === file;

const lineOf = (lines: MarkedLine[], number: number | null) =>
  number === null ? undefined : lines.find((l) => l.number === number);

/** Writes what is missing where it belongs: at the end of its block, or behind statements of its kind. */
function pencilIn(lines: MarkedLine[], fault: Fault, header: number | null): MarkedLine {
  const blank = { number: null, criteria: [], faults: [], also: [], remarks: [] };
  const indent = fault.port === null ? "" : "  ";
  const line: MarkedLine = { ...blank, text: `${indent}${fault.repair}`, faults: [fault] };
  if (fault.port !== null) {
    const start = lines.findIndex((l) => l.number !== null && l.number === header);
    if (start < 0) {
      const kind = fault.port.startsWith("lo") ? "loopback" : "port";
      lines.push({ ...blank, text: `${kind} ${fault.port}` }, line);
      return line;
    }
    let end = start + 1;
    while (end < lines.length && /^\s/.test(lines[end]?.text ?? "")) end += 1;
    lines.splice(end, 0, line);
    return line;
  }
  const word = fault.repair.split(" ")[0] ?? "";
  const like = lines.findLastIndex((l) => l.text.toLowerCase().startsWith(word));
  lines.splice(like < 0 ? lines.length : like + 1, 0, line);
  return line;
}

/** What of a line is wrong, and what should stand there, as the marker would write it. */
export function correction(fault: Fault): { wrong: string[]; right: string } {
  if (fault.found === null || fault.required === null)
    return { wrong: fault.found === null ? [] : fault.found.split(" ").slice(1), right: "not wanted" };
  if (fault.found === fault.required)
    return { wrong: fault.found.split(" ").slice(1), right: `belongs on ${fault.port ?? fault.device}` };
  if (fault.required.includes("; ")) return { wrong: [], right: fault.title.toLowerCase() };
  const found = fault.found.split(" ");
  const required = fault.required.split(" ");
  const first = required.findIndex((word, n) => word !== found[n]);
  const wrong = found.filter((word, n) => word !== required[n]);
  if (first < 0) return { wrong, right: `without ${wrong.join(" ")}` };
  const [was, is] = [found[first] ?? "", required[first] ?? ""];
  if (required.length === found.length && wrong.length === 1) {
    if (was.split("/")[0] === is.split("/")[0]) return { wrong, right: `/${is.split("/")[1] ?? ""}` };
    if (first === 0) return { wrong, right: is };
  }
  const from = /^[a-z]+$/.test(required[first - 1] ?? "") && first > 1 ? first - 1 : first;
  return { wrong, right: required.slice(from).join(" ") };
}
