import { useState, type SyntheticEvent } from "react";
import { Button, Form } from "react-bootstrap";
import type { Edit, Look } from "../../authoring/calls";

interface Props {
  look: Look;
  device: string;
  side: "given" | "answer";
  onEdit: (...edits: Edit[]) => Promise<boolean>;
}

type Row = Look["statements"][string][number];

const GROUPS = [
  ["routes", "Routes and gateways", "route 10.64.8.0/24 via 10.64.0.2"],
  ["translation", "Translations, pools and lists", "translate from inner to p3 shared"],
  ["leases", "Leases", ""],
  ["vlans", "VLANs", "vlan 10"],
  ["names", "Names", ""],
  ["other", "Other settings", "resolver 10.64.8.80"],
] as const;

/** What the sheets of a device say, as tables: a row that is changed here is changed where it stands. */
export function TablesPanel({ look, device, side, onEdit }: Props) {
  const rows = look.statements[device] ?? [];
  const kind = look.devices.find((d) => d.device === device)?.kind;
  const groups = GROUPS.filter(
    ([group]) =>
      rows.some((row) => row.group === group) || (group === "vlans" ? kind === "switch" : group === "routes"),
  );
  return groups.map(([group, title, example]) => (
    <table className="table routes" key={group}>
      <caption>{title}</caption>
      <tbody>
        {rows
          .filter((row) => row.group === group)
          .map((row) => (
            <Line key={`${row.header} ${row.text}`} row={row} device={device} side={side} onEdit={onEdit} />
          ))}
        {example !== "" && <Added device={device} side={side} example={example} onEdit={onEdit} />}
      </tbody>
    </table>
  ));
}

function Line({ row, device, side, onEdit }: { row: Row } & Omit<Props, "look">) {
  const [typing, setTyping] = useState(false);
  const [typed, setTyped] = useState(row.text);
  const write = () => {
    setTyping(false);
    if (typed.trim() !== row.text && typed.trim() !== "")
      void onEdit({
        do: "put-statements",
        side,
        device,
        header: row.header,
        statements: [typed.trim()],
        instead: row.text,
      });
  };
  return (
    <tr>
      <td className="mono">
        {row.header !== "" && <span className="soft">{row.header}: </span>}
        {typing ? (
          <input
            className="line-field"
            aria-label={`Change ${row.text}`}
            autoFocus
            value={typed}
            onChange={(event) => setTyped(event.target.value)}
            onBlur={write}
            onKeyDown={(event) => {
              if (event.key === "Enter") write();
              if (event.key === "Escape") setTyping(false);
            }}
          />
        ) : (
          <button type="button" className="cell" onClick={() => setTyping(true)}>
            {row.text}
          </button>
        )}
        {row.place.includes("given.") && <span className="soft"> given</span>}
      </td>
      <td className="number">
        <button
          type="button"
          className="place"
          aria-label={`Take away ${row.text}`}
          onClick={() =>
            void onEdit({ do: "take-statements", device, header: row.header, statements: [row.text] })
          }
        >
          take away
        </button>
      </td>
    </tr>
  );
}

/** One more statement; the example shows its form. */
function Added({ device, side, example, onEdit }: { example: string } & Omit<Props, "look">) {
  const [typed, setTyped] = useState("");
  const add = async (event: SyntheticEvent) => {
    event.preventDefault();
    if (typed.trim() === "") return;
    const header = /^(vlan) /.test(typed.trim()) ? typed.trim() : "";
    const statements = header === "" ? [typed.trim()] : [""];
    if (await onEdit({ do: "put-statements", side, device, header, statements })) setTyped("");
  };
  return (
    <tr>
      <td colSpan={2}>
        <Form className="d-flex gap-2" onSubmit={(event) => void add(event)}>
          <Form.Control
            size="sm"
            className="mono"
            aria-label={`Add, such as ${example}`}
            placeholder={example}
            value={typed}
            onChange={(event) => setTyped(event.target.value)}
          />
          <Button size="sm" type="submit" variant="light">
            Add
          </Button>
        </Form>
      </td>
    </tr>
  );
}
