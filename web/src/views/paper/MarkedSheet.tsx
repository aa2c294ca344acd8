import { useEffect, useRef } from "react";
import type { Schemas } from "../../api/client";
import { Words } from "../../sheet/SheetText";
import { Earned, Stamped } from "./Earned";
import { inWords, type Fault } from "./types";

interface Props {
  sheet: Schemas["PaperSheet"];
  result: Schemas["Result"];
  fault: Fault | undefined;
  onFault: (fault: Fault) => void;
}

/** A learner's sheet with the marks in its margin and the marker's pencil between its lines. */
export function MarkedSheet({ sheet, result, fault, onFault }: Props) {
  const shown = useRef<HTMLOListElement>(null);
  useEffect(() => {
    shown.current?.querySelector(".chosen")?.scrollIntoView({ block: "nearest" });
  }, [fault, sheet.device]);
  if (sheet.margin === null) return null;
  const { lines, unlined, absent } = sheet.margin;
  if (lines.length === 0)
    return (
      <div className="marked-sheet empty">
        {absent.map((sentence) => (
          <p key={sentence} className={sheet.asked ? "pencil" : "soft"}>
            {sentence}
          </p>
        ))}
      </div>
    );
  return (
    <div className={sheet.form === "sheet" ? "marked-sheet" : "marked-sheet data"}>
      <ol ref={shown}>
        {lines.map((line, n) => (
          <Line
            key={n}
            line={line}
            form={sheet.form}
            faults={result.faults}
            fault={fault}
            onFault={onFault}
          />
        ))}
      </ol>
      <Unlined ids={unlined} result={result} />
    </div>
  );
}

/** What is asked of the device and stands in no line of its sheet: something gone, a port that is up. */
function Unlined({ ids, result }: { ids: string[]; result: Schemas["Result"] }) {
  const criteria = result.criteria.filter((own) => ids.includes(own.id));
  if (criteria.length === 0) return null;
  return (
    <ul className="unlined" aria-label="Asked of the device, in no line of its own">
      {criteria.map((own) => (
        <li key={own.id}>
          <Earned criteria={[own]} />
          <span className="line-number" />
          <span className="soft">
            {inWords({ ...own, device: "" })}: {own.found}
            {own.verdict !== "met" && `, required ${own.required}`}
            {own.note !== "" && `. ${own.note}`}
          </span>
        </li>
      ))}
    </ul>
  );
}

interface LineProps {
  line: Schemas["MarkedLine"];
  form: Schemas["PaperSheet"]["form"];
  faults: Fault[];
  fault: Fault | undefined;
  onFault: (fault: Fault) => void;
}

function Line({ line, form, faults, fault, onFault }: LineProps) {
  const numbers = [...(line.fault === null ? [] : [line.fault]), ...line.also];
  const choose = (number: number) => {
    const found = faults.find((f) => f.id === number);
    if (found !== undefined) onFault(found);
  };
  const chosen = fault !== undefined && numbers.includes(fault.id);
  return (
    <li className={`${line.number === null ? "pencilled" : ""}${chosen ? " chosen" : ""}`}>
      <Stamped earned={line.earned} of={line.out_of} title={line.criteria.join(", ")} />
      <span className="line-number">{line.number ?? ""}</span>
      <code>
        {line.number === null ? line.text : <Text line={line} form={form} />}
        {line.correction !== "" && <span className="correction">{line.correction}</span>}
        {numbers.map((number) => (
          <button
            key={number}
            type="button"
            className={number === numbers[0] ? "cover fault-number" : "as-link fault-number"}
            aria-label={`Mistake ${number}`}
            onClick={() => choose(number)}
          >
            ({number})
          </button>
        ))}
        {line.remarks.map((remark) => (
          <span className="remark" key={remark}>
            {remark}
          </span>
        ))}
      </code>
    </li>
  );
}

/** The line as typed, with what is wrong in it underlined by the pencil. */
function Text({ line, form }: Pick<LineProps, "line" | "form">) {
  if (line.wrong === null) return <Words line={line.text} form={form} />;
  const { start, end } = line.wrong;
  return (
    <>
      <Words line={line.text.slice(0, start)} />
      <span className="wrong">{line.text.slice(start, end)}</span>
      {line.text.slice(end)}
    </>
  );
}
