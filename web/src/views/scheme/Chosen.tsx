import { useState } from "react";
import { Form } from "react-bootstrap";
import type { Schemas } from "../../api/client";
import type { Edit } from "../../authoring/calls";
import { marks } from "../../design/words";
import type { SchemeLine } from "./lines";
import { Labelled } from "../../design/Labelled";

interface Props {
  line: SchemeLine | undefined;
  shown: Schemas["SchemeView"];
  onEdit: (...edits: Edit[]) => Promise<boolean>;
  /** Puts it earlier or later. */
  onShift: (by: number) => void;
  onRemove: () => void;
}

const FORMS = ["", "via", "out", "both", "discard", "any"];

/** The task or criterion at the cursor: what it asks, how strictly, and what it earns on which paper. */
export function Chosen({ line, shown, onEdit, onShift, onRemove }: Props) {
  if (line === undefined) return null;
  const acts = (
    <p className="port-acts">
      <button type="button" className="place" onClick={() => onShift(-1)}>
        earlier
      </button>
      <button type="button" className="place" onClick={() => onShift(1)}>
        later
      </button>
      <button type="button" className="place" onClick={onRemove}>
        take away
      </button>
    </p>
  );
  const { criterion } = line;
  if (criterion === undefined)
    return (
      <section>
        <h2>{line.title}</h2>
        <Title key={line.place + line.title} line={line} onEdit={onEdit} />
        {acts}
      </section>
    );
  const put = (key: string, value: string) =>
    void onEdit({ do: "put", place: `${line.place}.${key}`, value });
  const { further } = criterion;
  return (
    <section>
      <h2>
        {criterion.key} {criterion.device}
      </h2>
      {criterion.asks !== "" && <p className="mono">{criterion.asks}</p>}
      <p>
        The model answer earns {marks(shown.model[criterion.id] ?? 0)} of {marks(criterion.marks)}, a blank
        paper {marks(shown.blank[criterion.id] ?? 0)}.
      </p>
      {acts}
      {line.each && <p className="soft">One entry asks for all of them: the marks are those of each.</p>}
      {criterion.key === "route" && (
        <Labelled id="criterion-form" label="Form that is asked for" className="mb-2">
          <Form.Select value={further.form ?? ""} onChange={(event) => put("form", event.target.value)}>
            {FORMS.map((form) => (
              <option key={form} value={form}>
                {form === "" ? "none: what it does counts" : form}
              </option>
            ))}
          </Form.Select>
        </Labelled>
      )}
      {criterion.key === "address" && (
        <Form.Check
          id="criterion-mask"
          label="the mask has to be written out"
          checked={further.mask === "dotted"}
          onChange={(event) => put("mask", event.target.checked ? "dotted" : "")}
        />
      )}
      {["address", "enabled", "translation", "dhcp", "instance"].includes(criterion.key) && (
        <Form.Check
          id="criterion-name"
          label="names have to be the model answer's"
          checked={further.name === "strict"}
          onChange={(event) => put("name", event.target.checked ? "strict" : "")}
        />
      )}
    </section>
  );
}

function Title({ line, onEdit }: { line: SchemeLine; onEdit: Props["onEdit"] }) {
  const [title, setTitle] = useState(line.title);
  const write = () =>
    title !== line.title && void onEdit({ do: "put", place: `${line.place}.title`, value: title });
  return (
    <Labelled id="task-title" label="Title of the task">
      <Form.Control
        value={title}
        onChange={(event) => setTitle(event.target.value)}
        onBlur={write}
        onKeyDown={(event) => event.key === "Enter" && write()}
      />
    </Labelled>
  );
}
