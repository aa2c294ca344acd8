import { useState } from "react";
import { Button, Form } from "react-bootstrap";
import { useNavigate } from "react-router";
import { Refused, type Schemas } from "../../api/client";
import { useImportLab } from "../../api/queries";
import { DropFiles } from "../../design/DropFiles";

/** Takes a lab file in, chosen or dropped; where its id is taken it asks for another one. */
export function ImportLab() {
  const take = useImportLab();
  const navigate = useNavigate();
  const [text, setText] = useState("");
  const taken = takenIn(take.error);
  const send = (body: Schemas["LabImport"]) =>
    take.mutate(body, { onSuccess: ({ slug }) => void navigate(`/labs/${slug}`) });
  const open = async (file: File | undefined) => {
    if (file === undefined) return;
    const read = await file.text();
    setText(read);
    send({ text: read, slug: "" });
  };
  return (
    <section className="mt-4">
      <h2>A lab from a file</h2>
      <DropFiles
        id="lab-file"
        label="Choose a lab file"
        accept=".yaml,.yml,.json"
        onFiles={(files) => void open(files[0])}
      >
        Drop a lab file here: its name ends in <code>.lab.yaml</code>.
      </DropFiles>
      {taken && <OtherId key={taken.free} taken={taken} onTake={(slug) => send({ text, slug })} />}
      {take.error && !taken && (
        <div className="said mt-3">
          <p>{take.error.message}</p>
          {take.error instanceof Refused &&
            take.error.places.slice(0, 3).map((place) => (
              <p className="soft" key={`${place.line} ${place.message}`}>
                line {place.line}: {place.message}
              </p>
            ))}
        </div>
      )}
    </section>
  );
}

type Taken = Schemas["IdTaken"];

const takenIn = (error: unknown): Taken | undefined =>
  error instanceof Refused && error.status === 409 ? (error.told as Taken) : undefined;

function OtherId({ taken, onTake }: { taken: Taken; onTake: (slug: string) => void }) {
  const [slug, setSlug] = useState(taken.free);
  return (
    <Form
      className="mt-3"
      onSubmit={(event) => {
        event.preventDefault();
        onTake(slug.trim());
      }}
    >
      <Form.Label htmlFor="other-id">{taken.message} Its id here</Form.Label>
      <Form.Control
        id="other-id"
        className="mono"
        value={slug}
        autoFocus
        required
        maxLength={64}
        onChange={(event) => setSlug(event.target.value)}
      />
      <Button type="submit" variant="primary" className="mt-3">
        Take it in
      </Button>
    </Form>
  );
}
