import { Button } from "react-bootstrap";
import { useWork } from "../authoring/Authoring";

/** Saves the lab as its next version, or gives up what was changed; says what became of it. */
export function Saving({ onSave }: { onSave: () => void }) {
  const { work, state } = useWork();
  return (
    <>
      <div className="d-flex gap-2 mt-3">
        <Button variant="primary" disabled={!work.changed} onClick={onSave}>
          Save as version {state.version + 1}
        </Button>
        {work.changed && (
          <Button variant="light" onClick={work.revert}>
            Back to version {state.version}
          </Button>
        )}
      </div>
      <div role="status">
        {state.savedNow && !work.changed && <p className="mt-3">Saved as version {state.version}.</p>}
      </div>
    </>
  );
}
