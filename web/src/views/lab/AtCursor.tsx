import type { Look } from "../../authoring/calls";
import type { KnotData } from "../../weave/geometry";
import type { Place } from "./cursor";
import { SubnetNote } from "./SubnetNote";

interface Props {
  look: Look;
  place: Place | undefined;
  side: "given" | "answer";
  onJoin: () => void;
  onFill: () => void;
  onGateways: () => void;
  onTake: () => void;
}

/** What stands at the cursor, and what can be done there. */
export function AtCursor({ look, place, side, onJoin, onFill, onGateways, onTake }: Props) {
  if (place === undefined)
    return <p className="soft">Press d to add the first device, or write the lab in its text.</p>;
  const { weave } = look;
  if (place.kind === "knot")
    return (
      <SubnetNote weave={weave} knot={place.knot}>
        <Cables look={look} device={place.device} knot={place.knot} />
        <button type="button" className="mend" onClick={onTake}>
          {place.knot.address === null ? "Unplug" : "Take away"}
        </button>
      </SubnetNote>
    );
  const row = "row" in place ? weave.rows[place.row] : undefined;
  return (
    <div className="subnet" role="status">
      {place.kind === "crossing" && (
        <>
          <div>
            <b>
              {place.node} is not in {row?.name}
            </b>
            <span>
              {row?.serial
                ? "a serial link has two ends"
                : row?.prefix === ""
                  ? "joining it takes a free port at both ends"
                  : `joining it takes a free port and the next free address, into ${side === "given" ? "what is given" : "the model answer"}`}
            </span>
          </div>
          {!row?.serial && (
            <button type="button" className="mend" onClick={onJoin}>
              Join {place.node} here
            </button>
          )}
        </>
      )}
      {place.kind === "network" && (
        <>
          <div>
            <b>{row?.name}</b>
            <code>{row?.prefix === "" ? "no prefix yet" : row?.prefix}</code>
          </div>
          <button type="button" className="mend" onClick={onFill}>
            {row?.prefix === ""
              ? "Give it a prefix and fill addresses"
              : "Fill the addresses that are missing"}
          </button>
          <button type="button" className="mend" onClick={onGateways}>
            Give its hosts their gateway
          </button>
          <button type="button" className="mend" onClick={onJoin}>
            Rename
          </button>
        </>
      )}
      {place.kind === "device" && (
        <>
          <div>
            <b>{place.device}</b>
            <span>
              {look.devices.find((d) => d.device === place.device)?.about || "nothing is said about it"}
            </span>
          </div>
          <button type="button" className="mend" onClick={onJoin}>
            Rename
          </button>
          <button type="button" className="mend" onClick={onTake}>
            Remove
          </button>
        </>
      )}
      {place.kind === "loopback" && (
        <div>
          <b>
            {place.device} {place.name}
          </b>
          <code>{place.address === "" ? "type an address to add this loopback" : place.address}</code>
        </div>
      )}
    </div>
  );
}

/** Every cable of a knot, and the addresses beyond the first one. */
function Cables({ look, device, knot }: { look: Look; device: string; knot: KnotData }) {
  const ports = (look.ports[device] ?? []).filter((port) => knot.ports.includes(port.name));
  const more = ports.flatMap((port) => port.addresses).filter((address) => address !== knot.address);
  return (
    <>
      <div className="cables">
        {ports.map((port) => (
          <span key={port.name}>
            <code>{port.name}</code>{" "}
            {port.far_end === null
              ? port.kind === "port"
                ? "joined to nothing"
                : port.kind
              : `joins ${port.far_end}`}
            {port.why !== null && port.why !== "not linked" && `, down: ${port.why}`}
          </span>
        ))}
      </div>
      {more.length > 0 && (
        <div>
          <span>also</span>
          {more.map((address) => (
            <code key={address}>{address}</code>
          ))}
        </div>
      )}
    </>
  );
}
