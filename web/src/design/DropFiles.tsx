import type { ReactNode } from "react";
import { Form } from "react-bootstrap";
import { chosenFiles } from "./folders";
import { useDrop } from "./useDrop";

interface Props {
  id: string;
  label: string;
  accept?: string;
  multiple?: boolean;
  /** What a folder is chosen by, where one may be. */
  folder?: string;
  onFiles: (files: File[]) => void;
  children: ReactNode;
}

/** A place to drop files on, or to choose them. */
export function DropFiles({ id, label, accept, multiple = false, folder, onFiles, children }: Props) {
  const { ref, over } = useDrop(onFiles);
  return (
    <div ref={ref} role="group" aria-label="Files to drop or choose" className={over ? "drop over" : "drop"}>
      <p>{children}</p>
      <Form.Control
        id={id}
        type="file"
        accept={accept}
        multiple={multiple}
        aria-label={label}
        onChange={(event) => onFiles([...((event.target as HTMLInputElement).files ?? [])])}
      />
      {folder !== undefined && (
        <Form.Label className="as-link folder">
          {folder}
          <input
            type="file"
            className="visually-hidden"
            {...{ webkitdirectory: "" }}
            onChange={(event) => onFiles(chosenFiles(event.target.files ?? []))}
          />
        </Form.Label>
      )}
    </div>
  );
}
