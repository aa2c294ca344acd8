import { useState, type SyntheticEvent } from "react";
import { Button, Form } from "react-bootstrap";
import { answered, client } from "../../api/client";
import type { Bench, BenchState, Moment } from "../../bench/Bench";
import { differences } from "../../bench/changes";

/** What the last edit changed, moments to come back to and to compare with, and an address changed everywhere. */
export function Moments({ bench, own }: { bench: Bench; own: BenchState }) {
  const [compared, setCompared] = useState<{ label: string; said: string[] } | null>(null);
  const last = own.before && own.look ? differences(own.before, own.look) : [];
  const compare = (moment: Moment) =>
    void answered(client.POST("/api/bench/look", { body: bench.body(moment.sheets) })).then(
      (look) =>
        bench.state.look && setCompared({ label: moment.label, said: differences(look, bench.state.look) }),
      () => undefined,
    );
  return (
    <>
      <section>
        <h2>{last.length === 0 ? "Nothing changed with the last edit" : "With the last edit"}</h2>
        {last.slice(0, 8).map((one) => (
          <p key={one} className="mb-1">
            {one}
          </p>
        ))}
        {last.length > 8 && <p className="soft">And {last.length - 8} more.</p>}
      </section>
      <section>
        <h2>Moments</h2>
        {own.moments.length === 0 && <p className="soft">Ctrl+M keeps how it stands, to come back to.</p>}
        {own.moments.map((moment) => (
          <p key={moment.label} className="port-acts">
            <span>{moment.label}</span>
            <button type="button" className="place" onClick={() => bench.put(moment.sheets)}>
              go back to it
            </button>
            <button type="button" className="place" onClick={() => compare(moment)}>
              compare
            </button>
          </p>
        ))}
        {compared !== null && (
          <>
            <p>
              <b>Since {compared.label}:</b> {compared.said.length === 0 ? "nothing is otherwise." : ""}
            </p>
            {compared.said.slice(0, 12).map((one) => (
              <p key={one} className="mb-1">
                {one}
              </p>
            ))}
          </>
        )}
        <Everywhere bench={bench} />
      </section>
    </>
  );
}

/** Changes an address, or any word, in the sheets of all devices. */
function Everywhere({ bench }: { bench: Bench }) {
  const [from, setFrom] = useState("");
  const [to, setTo] = useState("");
  const submit = (event: SyntheticEvent) => {
    event.preventDefault();
    if (from.trim() === "" || to.trim() === "") return;
    bench.replace(from.trim(), to.trim());
    setFrom("");
    setTo("");
  };
  return (
    <Form className="d-flex gap-2 mt-2" onSubmit={submit}>
      <Form.Control
        size="sm"
        aria-label="An address to change everywhere"
        placeholder="change everywhere"
        value={from}
        onChange={(event) => setFrom(event.target.value)}
      />
      <Form.Control
        size="sm"
        aria-label="What it becomes"
        placeholder="into"
        value={to}
        onChange={(event) => setTo(event.target.value)}
      />
      <Button size="sm" type="submit" variant="light">
        Change
      </Button>
    </Form>
  );
}
