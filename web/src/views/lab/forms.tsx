import { useEffect, useRef, useState, type SyntheticEvent, type ReactNode } from "react";
import { Button, Form as Fields } from "react-bootstrap";
import type { Edit, Look } from "../../authoring/calls";
import type { Cell } from "../../weave/Weave";
import { useEntry } from "../../design/useEntry";
import { found } from "./cursor";

/** What is asked for beside the weave. */
export type FormKind =
  | { kind: "device" }
  | { kind: "cable"; device: string }
  | { kind: "network"; row: number | null }
  | { kind: "rename-device"; device: string }
  | { kind: "rename-port"; end: string }
  | { kind: "find" };

interface Props {
  form: FormKind;
  look: Look;
  side: "given" | "answer";
  onEdit: (...edits: Edit[]) => Promise<boolean>;
  onFound: (cell: Cell) => void;
  onClose: () => void;
}

/** A form beside the weave: Enter does it and, where several follow each other, stays for the next; Esc closes. */
export function Form({ form, ...props }: Props) {
  switch (form.kind) {
    case "device":
      return <NewDevice {...props} />;
    case "cable":
      return <NewCable {...props} device={form.device} />;
    case "network":
      return <Network {...props} row={form.row} />;
    case "rename-device":
      return <RenameDevice {...props} device={form.device} />;
    case "rename-port":
      return <RenamePort {...props} end={form.end} />;
    case "find":
      return <Find {...props} />;
  }
}

type Inner = Omit<Props, "form">;

interface FrameProps {
  title: string;
  does: string;
  hint?: ReactNode;
  onSubmit: () => void;
  onClose: () => void;
  children: ReactNode;
}

function Frame({ title, does, hint, onSubmit, onClose, children }: FrameProps) {
  const frame = useRef<HTMLFormElement>(null);
  useEffect(() => frame.current?.querySelector("input")?.focus(), []);
  const submit = (event: SyntheticEvent) => {
    event.preventDefault();
    onSubmit();
  };
  return (
    <Fields
      ref={frame}
      className="lab-form"
      onSubmit={submit}
      onKeyDown={(event) => {
        if (event.key === "Escape") onClose();
        if (event.key === "Enter" && event.target instanceof HTMLSelectElement) submit(event);
      }}
    >
      <h2>{title}</h2>
      {children}
      {hint !== undefined && <p className="soft">{hint}</p>}
      <div className="d-flex gap-2">
        <Button type="submit" variant="primary" size="sm">
          {does}
        </Button>
        <Button variant="light" size="sm" onClick={onClose}>
          Close
        </Button>
      </div>
    </Fields>
  );
}

interface TextProps {
  label: string;
  value: string;
  onChange: (value: string) => void;
  placeholder?: string;
  list?: string[];
}

function Text({ label, value, onChange, placeholder, list }: TextProps) {
  const id = `form-${label.toLowerCase().replaceAll(" ", "-")}`;
  return (
    <Fields.Group controlId={id} className="mb-2">
      <Fields.Label>{label}</Fields.Label>
      <Fields.Control
        value={value}
        placeholder={placeholder}
        autoComplete="off"
        spellCheck={false}
        list={list && `${id}-list`}
        onChange={(event) => onChange(event.target.value)}
      />
      {list && (
        <datalist id={`${id}-list`}>
          {list.map((one) => (
            <option key={one} value={one} />
          ))}
        </datalist>
      )}
    </Fields.Group>
  );
}

const KINDS = ["router", "switch", "host"] as const;

function NewDevice({ onEdit, onClose }: Inner) {
  const [name, setName, sentName] = useEntry();
  const [kind, setKind] = useState<(typeof KINDS)[number]>("router");
  const [about, setAbout, sentAbout] = useEntry();
  const add = () => {
    const names = name.split(/[\s,]+/).filter((one) => one !== "");
    const edits = names.map((one): Edit => ({ do: "add-device", name: one, kind, about }));
    void sentName(() => sentAbout(() => onEdit(...edits)));
  };
  return (
    <Frame
      title="New device"
      does="Add"
      hint="Several names add several at once. Ports come as they are joined."
      onSubmit={add}
      onClose={onClose}
    >
      <Text label="Name" value={name} onChange={setName} />
      <Fields.Group controlId="form-kind" className="mb-2">
        <Fields.Label>Kind</Fields.Label>
        <Fields.Select value={kind} onChange={(event) => setKind(event.target.value as typeof kind)}>
          {KINDS.map((one) => (
            <option key={one}>{one}</option>
          ))}
        </Fields.Select>
      </Fields.Group>
      <Text label="What it is for" value={about} onChange={setAbout} placeholder="may be left out" />
    </Frame>
  );
}

function NewCable({ device, look, onEdit, onClose }: Inner & { device: string }) {
  const [a, setA] = useState(device);
  const [b, setB, sentB] = useEntry();
  const [serial, setSerial] = useState(false);
  const ends = look.devices.map((d) => d.device);
  const add = () => {
    const medium = serial ? "serial" : "ethernet";
    const others = b.split(/[\s,]+/).filter((one) => one !== "");
    void sentB(() => onEdit(...others.map((one): Edit => ({ do: "link", a, b: one, medium }))));
  };
  return (
    <Frame
      title="New cable"
      does="Join them"
      hint="A device, or DEVICE:PORT. Without a port the next free one is taken, or one is added."
      onSubmit={add}
      onClose={onClose}
    >
      <Text label="From" value={a} onChange={setA} list={ends} />
      <Text label="To" value={b} onChange={setB} list={ends} placeholder="one or several" />
      <Fields.Check
        id="form-serial"
        className="mb-2"
        label="a serial link"
        checked={serial}
        onChange={(event) => setSerial(event.target.checked)}
      />
    </Frame>
  );
}

function Network({ row, look, side, onEdit, onClose }: Inner & { row: number | null }) {
  const own = row === null ? undefined : look.weave.rows[row];
  const prefix = own?.prefix.split(", ")[0] ?? "";
  const named = own !== undefined && look.networks.includes(own.name);
  const [name, setName, sentName] = useEntry(named ? own.name : "");
  const [typed, setTyped, sentTyped] = useEntry(prefix);
  const submit = async () => {
    if (row === null || own === undefined) {
      await sentName(() => sentTyped(() => onEdit({ do: "add-network", name, prefix: typed })));
      return;
    }
    const filled = prefix === "";
    if (filled ? await onEdit({ do: "fill-network", row, prefix: typed, name, side }) : await changed(row))
      onClose();
  };
  const changed = async (at: number) => {
    if (typed !== prefix && !(await onEdit({ do: "renumber", row: at, prefix: typed }))) return false;
    return name === (named ? own.name : "") || onEdit({ do: "name-network", row: at, name });
  };
  return (
    <Frame
      title={own === undefined ? "New network" : prefix === "" ? `Addresses for ${own.name}` : own.name}
      does={own === undefined ? "Add" : prefix === "" ? "Fill addresses" : "Change"}
      hint={
        own === undefined
          ? "Its row is there at once; join devices to it with Enter at their crossing."
          : prefix === ""
            ? "The first addresses go to routers, the next ones to hosts."
            : "With another prefix every address, route, ping and criterion in it follows."
      }
      onSubmit={() => void submit()}
      onClose={onClose}
    >
      <Text label="Name" value={name} onChange={setName} placeholder={own?.name ?? ""} />
      <Text label="Prefix" value={typed} onChange={setTyped} placeholder="10.64.8.0/24" />
    </Frame>
  );
}

function RenameDevice({ device, look, onEdit, onFound, onClose }: Inner & { device: string }) {
  const own = look.devices.find((d) => d.device === device);
  const [name, setName] = useState(device);
  const [kind, setKind] = useState(own?.kind ?? "router");
  const [about, setAbout] = useState(own?.about ?? "");
  const submit = async () => {
    const edits: Edit[] = [];
    if (kind !== own?.kind || about !== own.about) edits.push({ do: "set-device", device, kind, about });
    if (name !== device) edits.push({ do: "rename-device", device, to: name.trim() });
    if (edits.length === 0 || (await onEdit(...edits))) onClose();
    const column = look.weave.columns.findIndex((c) => c.device === device);
    onFound({ column, row: -1 });
  };
  return (
    <Frame
      title={device}
      does="Change"
      hint="Links, sheets, pings and the scheme follow another name."
      onSubmit={() => void submit()}
      onClose={onClose}
    >
      <Text label="Name" value={name} onChange={setName} />
      <Fields.Group controlId="form-kind" className="mb-2">
        <Fields.Label>Kind</Fields.Label>
        <Fields.Select value={kind} onChange={(event) => setKind(event.target.value as typeof kind)}>
          {KINDS.map((one) => (
            <option key={one}>{one}</option>
          ))}
        </Fields.Select>
      </Fields.Group>
      <Text label="What it is for" value={about} onChange={setAbout} />
    </Frame>
  );
}

/** Gives a port another name. */
export function RenamePort({ end, onEdit, onClose }: Pick<Inner, "onEdit" | "onClose"> & { end: string }) {
  const [name, setName] = useState(end.split(":")[1] ?? "");
  const submit = async () => {
    if (await onEdit({ do: "rename-port", end, to: name.trim() })) onClose();
  };
  return (
    <Frame title={end} does="Rename" onSubmit={() => void submit()} onClose={onClose}>
      <Text label="Name of the port" value={name} onChange={setName} />
    </Frame>
  );
}

function Find({ look, onFound, onClose }: Inner) {
  const [typed, setTyped] = useState("");
  const at = found(look, typed);
  return (
    <Frame
      title="Find"
      does="Go there"
      hint={
        typed !== "" && at === undefined ? "Nothing begins like that." : "A device, a network or an address."
      }
      onSubmit={() => {
        if (at === undefined) return;
        onFound(at);
        onClose();
      }}
      onClose={onClose}
    >
      <Text label="What to find" value={typed} onChange={setTyped} />
    </Frame>
  );
}
