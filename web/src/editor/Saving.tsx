import { Button } from "react-bootstrap";

interface Props {
  /** The newest version of the lab, and the one that the text began with. */
  version: number;
  base: number;
  changed: boolean;
  pending: boolean;
  error: Error | null;
  saved: number | undefined;
  onSave: () => void;
  onBack: () => void;
  onRebase: () => void;
}

/** Saves a text as the lab's next version, or goes back; says what became of it, and who was faster. */
export function Saving({ version, base, changed, pending, error, saved, onSave, onBack, onRebase }: Props) {
  return (
    <>
      <div className="d-flex gap-2 mt-3">
        <Button variant="primary" disabled={!changed || pending} onClick={onSave}>
          Save as version {version + 1}
        </Button>
        {changed && (
          <Button variant="light" onClick={onBack}>
            Back to version {version}
          </Button>
        )}
      </div>
      <div role="status">
        {error && <p className="said mt-3">{error.message}</p>}
        {version !== base && changed && (
          <p className="soft mt-2">
            Yours begins with version {base}, the newest is {version}.{" "}
            <button type="button" className="place" onClick={onRebase}>
              Put mine on top of it
            </button>
          </p>
        )}
        {saved !== undefined && !changed && <p className="mt-3">Saved as version {saved}.</p>}
      </div>
    </>
  );
}
