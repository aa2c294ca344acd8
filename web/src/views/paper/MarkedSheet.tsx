import type { Schemas } from "../../api/client";
import { Stamp, type Verdict } from "../../design/Stamp";
import { marks } from "../../design/words";
import { Words } from "../../sheet/SheetText";
import { correction, margin, type Criterion, type Fault, type MarkedLine } from "./margin";

interface Props {
  sheet: Schemas["PaperSheet"];
  result: Schemas["ResultShape"];
  fault: Fault | undefined;
  onFault: (fault: Fault) => void;
}

/** A learner's sheet with the marks in its margin and the marker's pencil between its lines. */
export function MarkedSheet({ sheet, result, fault, onFault }: Props) {
  if (sheet.text === null || sheet.text.trim() === "")
    return (
      <div className="marked-sheet empty">
        {whyEmpty(sheet, result).map((said) => (
          <p key={said} className={sheet.asked ? "pencil" : "soft"}>
            {said}
          </p>
        ))}
      </div>
    );
  const lines = margin(sheet.text, sheet.file ?? "", sheet.device, result);
  return (
    <ol className="marked-sheet">
      {lines.map((line, n) => (
        <Line key={n} line={line} fault={fault} onFault={onFault} />
      ))}
    </ol>
  );
}

/** Says why there is no sheet to show: not asked for, not handed in, empty, or no text at all. */
function whyEmpty(sheet: Schemas["PaperSheet"], result: Schemas["ResultShape"]): string[] {
  const remarks = result.diagnostics.filter((d) => d.device === sheet.device).map((d) => d.message);
  if (remarks.length > 0) return remarks;
  if (!sheet.asked) return [`Nothing is asked of ${sheet.device}.`];
  return [
    sheet.text === null
      ? `No sheet of ${sheet.device} was handed in.`
      : `The sheet of ${sheet.device} is empty.`,
  ];
}

interface LineProps {
  line: MarkedLine;
  fault: Fault | undefined;
  onFault: (fault: Fault) => void;
}

function Line({ line, fault, onFault }: LineProps) {
  const [own] = line.faults;
  const chosen = own !== undefined && own === fault;
  return (
    <li
      className={`${line.number === null ? "pencilled" : ""}${chosen ? " chosen" : ""}`}
      onClick={own && (() => onFault(own))}
    >
      <Earned criteria={line.criteria} />
      <span className="line-number">{line.number ?? ""}</span>
      <code>
        {line.number === null ? line.text : <Text line={line} />}
        {line.number !== null && own && <span className="correction">{correction(own).right}</span>}
        {own && <span className="fault-number"> ({own.id})</span>}
        {line.remarks.map((remark) => (
          <span className="remark" key={remark.message}>
            {remark.message}
          </span>
        ))}
      </code>
    </li>
  );
}

/** The sign and the marks in the margin; the worst verdict shows where a line earns several. */
function Earned({ criteria }: { criteria: Criterion[] }) {
  if (criteria.length === 0) return <span className="earned" />;
  const earned = criteria.reduce((sum, c) => sum + c.marks * c.fraction, 0);
  const of = criteria.reduce((sum, c) => sum + c.marks, 0);
  const verdict: Verdict = earned === of ? "met" : earned > 0 ? "partly" : "missed";
  return (
    <span
      className={verdict === "met" ? "earned" : "earned pencil"}
      title={criteria.map((c) => c.id).join(", ")}
    >
      <Stamp verdict={verdict} />
      {verdict === "met" ? marks(of) : `${marks(earned)} of ${marks(of)}`}
    </span>
  );
}

/** The line as typed, with what is wrong in it underlined by the pencil. */
function Text({ line }: { line: MarkedLine }) {
  const [fault] = line.faults;
  const wrong = fault === undefined ? [] : correction(fault).wrong;
  const at = wrong.length === 0 ? -1 : line.text.indexOf(wrong.join(" "));
  if (at < 0) return <Words line={line.text} />;
  const end = at + wrong.join(" ").length;
  return (
    <>
      <Words line={line.text.slice(0, at)} />
      <span className="wrong">{line.text.slice(at, end)}</span>
      {line.text.slice(end)}
    </>
  );
}
