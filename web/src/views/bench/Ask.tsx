import { useState, type SyntheticEvent } from "react";
import { Button, Form } from "react-bootstrap";
import { answered, client, type Schemas } from "../../api/client";
import type { Bench, BenchLook } from "../../bench/Bench";
import { useEntry } from "../../design/useEntry";

interface Props {
  open: boolean;
  look: BenchLook;
  bench: Bench;
  onClose: () => void;
  onOpen: () => void;
}

/** What is typed: `tcp quay:80` opens a service, `name weir.harbour.example` looks a name up, all else is pinged. */
function asked(typed: string) {
  if (/^(tcp|udp) /.test(typed)) return { to: "", open: typed, resolve: "" };
  if (/^name /.test(typed)) return { to: "", open: "", resolve: typed.slice(5).trim() };
  return { to: typed, open: "", resolve: "" };
}

/** Any ping from any device to anybody, a service to open, all pairs at once. */
export function Ask({ open, look, bench, onClose, onOpen }: Props) {
  const devices = Object.keys(look.states);
  const [from, setFrom] = useState(bench.state.device);
  const [to, setTo, sent] = useEntry();
  const [pairs, setPairs] = useState<Schemas["PairsView"] | null>(null);
  const everybody = () =>
    void answered(client.POST("/api/bench/pairs", { body: bench.body() })).then(setPairs, () => undefined);
  const ask = (event: SyntheticEvent) => {
    event.preventDefault();
    if (to.trim() === "") return;
    void sent(() => bench.ask({ from_: from, source: "", ...asked(to.trim()) }));
  };
  return (
    <section>
      <h2>Ask</h2>
      {!open && (
        <p className="port-acts">
          <button type="button" className="mend" onClick={onOpen}>
            A ping of your own
          </button>
          <button type="button" className="mend" onClick={everybody}>
            Everybody to everybody
          </button>
        </p>
      )}
      {open && (
        <Form onSubmit={ask} onKeyDown={(event) => event.key === "Escape" && onClose()}>
          <div className="d-flex gap-2 mb-2">
            <Form.Select
              size="sm"
              aria-label="From"
              value={from}
              onChange={(event) => setFrom(event.target.value)}
            >
              {devices.map((name) => (
                <option key={name}>{name}</option>
              ))}
            </Form.Select>
            <Form.Control
              size="sm"
              aria-label="To"
              autoFocus
              placeholder="a device or address"
              value={to}
              onChange={(event) => setTo(event.target.value)}
            />
            <Button size="sm" type="submit">
              Ask
            </Button>
          </div>
          <p className="soft">Or tcp quay:80 for a service, name weir.harbour.example for a name.</p>
        </Form>
      )}
      {pairs !== null && (
        <table className="table bench-reach">
          <caption>
            Who reaches whom{" "}
            <button type="button" className="place" onClick={() => setPairs(null)}>
              close
            </button>
          </caption>
          <tbody>
            {pairs.sources.map((source) => {
              const own = pairs.rows.filter((row) => row.from === source);
              const lost = own.filter((row) => row.outcome !== "reply").map((row) => row.to);
              return (
                <tr key={source}>
                  <th scope="row">{source}</th>
                  <td>
                    {own.length - lost.length} of {own.length}
                  </td>
                  <td className="soft">{lost.length === 0 ? "everybody" : `not ${lost.join(", ")}`}</td>
                </tr>
              );
            })}
          </tbody>
        </table>
      )}
    </section>
  );
}
