import { ToggleButton, ToggleButtonGroup } from "react-bootstrap";
import { Link } from "react-router";
import type { Look } from "../../authoring/calls";
import { atStage } from "../../design/Stages";
import { useWork } from "../../authoring/Authoring";
import { SheetText } from "../../sheet/SheetText";

interface Props {
  look: Look;
  device: string;
  side: "given" | "answer";
  onSide: (side: "given" | "answer") => void;
}

/** The sheet of a device: what is given, or the model answer; the one that is shown is written into. */
export function SheetPanel({ look, device, side, onSide }: Props) {
  const { work } = useWork();
  const sheets = look.devices.find((own) => own.device === device);
  const edit = atStage(`/labs/${work.slug}/sheets/${side}/${device}`, look.stage);
  const text = sheets?.[side] ?? null;
  return (
    <>
      <ToggleButtonGroup type="radio" name="side" size="sm" value={side} onChange={onSide} className="mb-2">
        <ToggleButton id="side-given" value="given" variant="light">
          given
        </ToggleButton>
        <ToggleButton id="side-answer" value="answer" variant="light">
          model answer
        </ToggleButton>
      </ToggleButtonGroup>
      {text === null ? <p className="soft">{nothing(side, device)}</p> : <SheetText text={text} />}
      {sheets !== undefined && sheets.before !== null && (
        <>
          {sheets.taken.length > 0 && (
            <p className="mt-2 mb-0">
              Taken away: <span className="mono">{sheets.taken.join(", ")}</span>
            </p>
          )}
          <details className="notes">
            <summary>At the end of the stage before</summary>
            {sheets.before === "" ? <p className="soft">nothing</p> : <SheetText text={sheets.before} />}
          </details>
        </>
      )}
      <p className="mt-2 mb-0">
        <Link to={edit}>{text === null ? "Write one" : "Edit this sheet"}</Link>
        {sheets?.start != null && (
          <>
            {", "}
            <Link to={atStage(`/labs/${work.slug}/sheets/start/${device}`, look.stage)}>
              what learners begin with
            </Link>
          </>
        )}
      </p>
    </>
  );
}

function nothing(side: "given" | "answer", device: string): string {
  if (side === "given") return `Nothing is given for ${device}: learners begin with an empty sheet.`;
  return `The model answer has nothing for ${device} beyond what is given.`;
}
