import { useState, type SyntheticEvent } from "react";
import { Button, Form } from "react-bootstrap";
import type { Edit, Look } from "../../authoring/calls";
import { Labelled } from "../../design/Labelled";
import { useEntry } from "../../design/useEntry";

interface Props {
  look: Look;
  onEdit: (...edits: Edit[]) => Promise<boolean>;
  onClose: () => void;
}

const KINDS = { ping: "Ping", open: "Open a service", resolve: "Look up a name" } as const;
type Kind = keyof typeof KINDS;

/** A ping of any source and target, a service opened, a name looked up. */
export function NewAsked({ look, onEdit, onClose }: Props) {
  const [kind, setKind] = useState<Kind>("ping");
  const [from, setFrom] = useState(look.devices.find((d) => d.kind === "host")?.device ?? "");
  const [to, setTo, sent] = useEntry();
  const [source, setSource] = useState("");
  const [expect, setExpect] = useState("");
  const usual = kind === "ping" ? "reply" : "answer";
  const stage = look.stages.findIndex((own) => own.id === look.stage);
  const before = stage < 0 ? "" : `stages[${stage}].`;
  const submit = (event: SyntheticEvent) => {
    event.preventDefault();
    const entry = { from, ...(kind === "ping" ? { to } : { [kind]: to }), source, expect: expect || usual };
    const place = `${before}${kind === "ping" ? "pings" : "services"}`;
    void sent(() => onEdit({ do: "insert", place, values: [entry] }));
  };
  return (
    <Form className="lab-form" onSubmit={submit} onKeyDown={(event) => event.key === "Escape" && onClose()}>
      <h2>New expectation</h2>
      <Labelled id="asked-kind" label="What is done" className="mb-2">
        <Form.Select autoFocus value={kind} onChange={(event) => setKind(event.target.value as Kind)}>
          {Object.entries(KINDS).map(([value, label]) => (
            <option key={value} value={value}>
              {label}
            </option>
          ))}
        </Form.Select>
      </Labelled>
      <Field label="From" value={from} onChange={setFrom} />
      <Field
        label={kind === "resolve" ? "Name" : "To"}
        value={to}
        onChange={setTo}
        placeholder={
          kind === "ping"
            ? "a device, DEVICE:PORT or an address"
            : kind === "open"
              ? "tcp quay:80"
              : "quay.example"
        }
      />
      <Field
        label="Asks from"
        value={source}
        onChange={setSource}
        placeholder="a port or address; may be left out"
      />
      <Field label="Expected" value={expect} onChange={setExpect} placeholder={usual} />
      <div className="d-flex gap-2">
        <Button type="submit" size="sm">
          Add
        </Button>
        <Button size="sm" variant="light" onClick={onClose}>
          Close
        </Button>
      </div>
    </Form>
  );
}

interface FieldProps {
  label: string;
  value: string;
  onChange: (value: string) => void;
  placeholder?: string;
}

function Field({ label, value, onChange, placeholder }: FieldProps) {
  return (
    <Labelled id={`asked-${label.toLowerCase().replaceAll(" ", "-")}`} label={label} className="mb-2">
      <Form.Control
        value={value}
        placeholder={placeholder}
        onChange={(event) => onChange(event.target.value)}
      />
    </Labelled>
  );
}
