import { mendInWords, type Remark } from "./remarks";

interface Props {
  remarks: Remark[];
  onGoTo: (line: number) => void;
  onMend: (remark: Remark) => void;
}

/** What is said of a text: each remark leads to its line, and is mended by its button where that is certain. */
export function Remarks({ remarks, onGoTo, onMend }: Props) {
  return remarks.map((remark, n) => (
    <div className={`entry remark ${remark.severity}`} key={n}>
      <p>
        <button type="button" className="place" onClick={() => onGoTo(remark.line)}>
          line {remark.line}
          {remark.place !== "" && !remark.place.includes(" line ") && `, ${remark.place}`}
        </button>
        <span className="soft"> {remark.severity}</span>
      </p>
      <p>{remark.message}</p>
      {remark.mend !== null && (
        <p>
          <button type="button" className="mend" onClick={() => onMend(remark)}>
            Mend: {mendInWords(remark.mend)}
          </button>
        </p>
      )}
    </div>
  ));
}
