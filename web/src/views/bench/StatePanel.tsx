import { useEffect, useState } from "react";
import { ToggleButton, ToggleButtonGroup } from "react-bootstrap";
import { answered, client, type Schemas } from "../../api/client";
import type { Bench, BenchState } from "../../bench/Bench";
import { wayOf } from "../../bench/changes";
import { count, inWords, marks } from "../../design/words";

export const PANELS = ["state", "translations", "neighbours", "packets", "lacking", "marks"] as const;
export type Panel = (typeof PANELS)[number];

interface Props {
  bench: Bench;
  own: BenchState;
  panel: Panel;
  onPanel: (panel: Panel) => void;
}

/** What the device at hand knows, as tables, and what is behind lost marks. */
export function StatePanel({ bench, own, panel, onPanel }: Props) {
  const state = own.look?.states[own.device];
  if (state === undefined) return null;
  return (
    <div className="bench-state">
      <ToggleButtonGroup type="radio" name="bench-panel" size="sm" value={panel} onChange={onPanel}>
        {PANELS.map((one) => (
          <ToggleButton key={one} id={`bench-${one}`} value={one} variant="light">
            {one}
          </ToggleButton>
        ))}
      </ToggleButtonGroup>
      {panel === "state" && <Known device={own.device} state={state} />}
      {panel === "translations" && <Translations device={own.device} state={state} />}
      {panel === "neighbours" && <Neighbours device={own.device} state={state} />}
      {panel === "packets" && <Packets bench={bench} own={own} />}
      {panel === "lacking" && <Lacking bench={bench} own={own} />}
      {panel === "marks" && <Marks bench={bench} own={own} />}
    </div>
  );
}

type State = Schemas["DeviceState"];

function Known({ device, state }: { device: string; state: State }) {
  const down = state.ports.filter((port) => !port.up).length;
  const unused = state.routes.filter((route) => !route.active).length;
  return (
    <>
      <h2>
        Ports of {device}: {down === 0 ? "all are up" : `${inWords(down)} ${down === 1 ? "is" : "are"} down`}
      </h2>
      <table className="table">
        <tbody>
          {state.ports.map((port) => (
            <tr key={port.name}>
              <td className="mono">{port.name}</td>
              <td className="mono">{port.addresses.join(" ") || "no address"}</td>
              <td>
                {port.up ? "up" : <b>down: {port.why}</b>}
                {port.far_end !== null && <span className="soft"> joins {port.far_end}</span>}
              </td>
            </tr>
          ))}
        </tbody>
      </table>
      <h2>
        Routes of {device}
        {state.routes.length === 0
          ? ": none"
          : unused === 0
            ? ": all are used"
            : `: ${inWords(unused)} ${unused === 1 ? "is" : "are"} not used`}
      </h2>
      {state.routes.length === 0 && (
        <p className="soft">No port with an address is up, and no route stands in the sheet.</p>
      )}
      <table className="table">
        <tbody>
          {state.routes
            .filter((route) => route.origin !== "own")
            .map((route, n) => (
              <tr key={n}>
                <td className="mono">{route.prefix}</td>
                <td>{wayOf(route)}</td>
                <td>{route.active ? "" : <b>not used: {route.why}</b>}</td>
              </tr>
            ))}
        </tbody>
      </table>
      {(state.leases.length > 0 || state.leased.length > 0) && (
        <>
          <h2>Leases</h2>
          <table className="table">
            <tbody>
              {state.leases.map((lease, n) => (
                <tr key={n}>
                  <td className="mono">{lease.address}</td>
                  <td>given to {lease.client}</td>
                  <td>{lease.pool}</td>
                </tr>
              ))}
              {state.leased.map((lease, n) => (
                <tr key={`own ${n}`}>
                  <td className="mono">{lease.address}</td>
                  <td>held by {lease.port}</td>
                  <td>from {lease.server}</td>
                </tr>
              ))}
            </tbody>
          </table>
        </>
      )}
    </>
  );
}

function Translations({ device, state }: { device: string; state: State }) {
  return (
    <>
      <h2>Translations of {device}, after all pings</h2>
      {state.translations.length === 0 && (
        <p className="soft">
          Nothing is translated here: no translation stands in the sheet, or no packet that it fits came by.
        </p>
      )}
      <table className="table">
        <thead>
          <tr>
            <th scope="col">internal</th>
            <th scope="col">external</th>
            <th scope="col">other end</th>
            <th scope="col">kind</th>
          </tr>
        </thead>
        <tbody>
          {state.translations.map((one, n) => (
            <tr key={n}>
              <td className="mono">{one.internal}</td>
              <td className="mono">{one.external}</td>
              <td className="mono">{one.remote ?? "any"}</td>
              <td>
                {one.kind}
                {one.standing ? ", standing" : ""}
              </td>
            </tr>
          ))}
        </tbody>
      </table>
    </>
  );
}

function Neighbours({ device, state }: { device: string; state: State }) {
  return (
    <>
      <h2>Neighbours that {device} found</h2>
      {state.neighbours.length === 0 && (
        <p className="soft">It sent nothing that a neighbour had to be found for.</p>
      )}
      <table className="table">
        <tbody>
          {state.neighbours.map((one, n) => (
            <tr key={n}>
              <td className="mono">{one.address}</td>
              <td>out {one.port}</td>
              <td>
                {one.device} {one.device_port}
                {one.proxy ? ", on behalf of others" : ""}
              </td>
            </tr>
          ))}
        </tbody>
      </table>
      {state.names.length > 0 && (
        <p className="soft">
          It knows by name: {state.names.map((one) => `${one.name} ${one.address}`).join(", ")}.
        </p>
      )}
    </>
  );
}

/** Asks something about the bench as it stands; an answer about an earlier one is left out. */
function useAsked<T>(own: BenchState, ask: () => Promise<T>): T | null {
  const [found, setFound] = useState<{ of: unknown; value: T } | null>(null);
  const { sheets, device, asked } = own;
  useEffect(() => {
    let stale = false;
    ask().then(
      (value) => !stale && setFound({ of: device, value }),
      () => undefined, // the bench says what is wrong
    );
    return () => {
      stale = true;
    };
    // eslint-disable-next-line react-hooks/exhaustive-deps -- it asks about these, whoever asks
  }, [sheets, device, asked]);
  return found?.of === device ? found.value : null;
}

/** What the device saw, packet by packet. */
function Packets({ bench, own }: { bench: Bench; own: BenchState }) {
  const [port, setPort] = useState("");
  const found = useAsked(own, () =>
    answered(client.POST("/api/bench/seen", { body: { ...bench.body(), number: 0, port: "" } })),
  );
  const packets = (found?.packets ?? []).filter((p) => port === "" || p.enters === port || p.leaves === port);
  return (
    <>
      <h2>
        {count(packets.length, "packet")} at {own.device}, in their order
      </h2>
      <label className="soft">
        at{" "}
        <select value={port} onChange={(event) => setPort(event.target.value)}>
          <option value="">every port</option>
          {own.look?.states[own.device]?.ports.map((p) => (
            <option key={p.name}>{p.name}</option>
          ))}
        </select>
      </label>
      <table className="table">
        <thead>
          <tr>
            <th scope="col">ping</th>
            <th scope="col">in, out</th>
            <th scope="col">from, to</th>
            <th scope="col">what became of it</th>
          </tr>
        </thead>
        <tbody>
          {packets.slice(0, 200).map((packet, n) => (
            <tr key={n}>
              <td>
                {packet.run} {packet.way}
              </td>
              <td className="mono">
                {packet.enters ?? "–"} {packet.leaves ?? "–"}
              </td>
              <td className="mono">
                {packet.source} {packet.destination}
              </td>
              <td>{packet.rewritten.length > 0 ? packet.rewritten.join("; ") : packet.sentence}</td>
            </tr>
          ))}
        </tbody>
      </table>
    </>
  );
}

/** The networks that the router lacks, with routes that would do, written by a click. */
function Lacking({ bench, own }: { bench: Bench; own: BenchState }) {
  const found = useAsked(own, () => answered(client.POST("/api/bench/routes", { body: bench.body() })));
  const nodes = found?.nodes.filter((node) => node.node.split("/")[0] === own.device) ?? [];
  const take = (statement: string) => {
    const sheet = own.sheets[own.device] ?? "";
    bench.type(own.device, `${sheet}${sheet === "" || sheet.endsWith("\n") ? "" : "\n"}${statement}\n`);
  };
  if (found !== null && nodes.length === 0)
    return <p className="soft">{own.device} does not forward: it needs a gateway, and no routes.</p>;
  return nodes.map((node) => (
    <div key={node.node}>
      <h2>
        {node.node}{" "}
        {node.lacks.length === 0 ? "lacks no network" : `lacks ${count(node.lacks.length, "network")}`}
      </h2>
      <table className="table">
        <tbody>
          {node.lacks.map((lacked) => (
            <tr key={lacked.network}>
              <td className="mono">{lacked.network}</td>
              <td>{lacked.name}</td>
              <td>
                {lacked.statement === "" ? (
                  "no way there"
                ) : (
                  <button type="button" className="place" onClick={() => take(lacked.statement)}>
                    {lacked.statement}
                  </button>
                )}
              </td>
            </tr>
          ))}
        </tbody>
      </table>
    </div>
  ));
}

/** What the sheets would earn, and the mistakes that the search finds behind what they lose. */
function Marks({ bench, own }: { bench: Bench; own: BenchState }) {
  const found = useAsked(own, () => answered(client.POST("/api/bench/marks", { body: bench.body() })));
  if (found === null) return <p className="soft">One moment …</p>;
  return (
    <>
      <h2>
        {marks(found.carried)} of {marks(found.out_of)} marks
        {found.mistakes.length > 0 && `, ${count(found.mistakes.length, "mistake")}`}
      </h2>
      {found.mistakes.map((mistake, n) => (
        <div className="entry" key={n}>
          <p>
            <button type="button" className="place" onClick={() => bench.turn(mistake.device)}>
              {mistake.device}
              {mistake.line !== null && ` line ${mistake.line}`}
            </button>{" "}
            <b>{mistake.title}.</b> {mistake.told}
          </p>
          <p className="soft">
            It would be mended by <span className="mono">{mistake.repair}</span>
            {mistake.pings.length > 0 &&
              `; with it ${count(mistake.pings.length, "ping")} would be as expected`}
            .
          </p>
        </div>
      ))}
    </>
  );
}
