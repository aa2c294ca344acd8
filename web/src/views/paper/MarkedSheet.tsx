import type { Schemas } from "../../api/client";
import { Words } from "../../sheet/SheetText";
import { Earned } from "./Earned";
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
  const { lines, others } = margin(sheet.text, sheet.file ?? "", sheet.device, result);
  return (
    <div className="marked-sheet">
      <ol>
        {lines.map((line, n) => (
          <Line key={n} line={line} fault={fault} onFault={onFault} />
        ))}
      </ol>
      <Unlined criteria={others} />
    </div>
  );
}

/** What is asked of the device and stands in no line of its sheet: something gone, a port that is up. */
function Unlined({ criteria }: { criteria: Criterion[] }) {
  if (criteria.length === 0) return null;
  return (
    <ul className="unlined" aria-label="Asked of the device, in no line of its own">
      {criteria.map((own) => (
        <li key={own.id}>
          <Earned criteria={[own]} />
          <span className="line-number" />
          <span className="soft">
            {own.id.split(":")[0]} {own.id.split(":").slice(2).join(":")}: {own.found}
            {own.verdict !== "met" && `, required ${own.required}`}
            {own.note !== "" && `. ${own.note}`}
          </span>
        </li>
      ))}
    </ul>
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
  const also = line.also.filter((f) => f !== own);
  const chosen = fault !== undefined && (own === fault || also.includes(fault));
  return (
    <li
      className={`${line.number === null ? "pencilled" : ""}${chosen ? " chosen" : ""}`}
      onClick={(own ?? also[0]) && (() => onFault((own ?? also[0]) as Fault))}
    >
      <Earned criteria={line.criteria} />
      <span className="line-number">{line.number ?? ""}</span>
      <code>
        {line.number === null ? line.text : <Text line={line} />}
        {line.number !== null && own && <span className="correction">{correction(own).right}</span>}
        {[...(own ? [own] : []), ...also].map((f) => (
          <span key={f.id} className="fault-number">
            {" "}
            ({f.id})
          </span>
        ))}
        {line.remarks.map((remark) => (
          <span className="remark" key={remark.message}>
            {remark.message}
          </span>
        ))}
      </code>
    </li>
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
