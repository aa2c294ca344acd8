import type { ReactNode } from "react";
import type { KnotData, WeaveData } from "../../weave/geometry";
import "./lab.css";

/** What an instructor works out by hand for the network at the cursor. */
export function SubnetNote({
  weave,
  knot,
  children,
}: {
  weave: WeaveData;
  knot: KnotData;
  children?: ReactNode;
}) {
  const device = weave.columns[knot.column];
  const row = weave.rows[knot.row];
  const subnet = knot.subnet;
  return (
    <div className="subnet" role="status">
      <div>
        <b>
          {device?.device} {knot.label} in {row?.name}
        </b>
        <code className="strong">{subnet?.address ?? "no address"}</code>
      </div>
      {subnet === null ? (
        <div>
          <span>
            {device?.kind === "switch" ? "a switch's ports only carry" : "no address is planned here"}
          </span>
        </div>
      ) : (
        <>
          <div>
            <span>
              {subnet.usable} usable, {host(subnet.first, subnet.network)} to{" "}
              {host(subnet.last, subnet.network)}
            </span>
            {subnet.mask !== null && <code>mask {subnet.mask}</code>}
          </div>
          <div>
            <span>
              {subnet.broadcast === null
                ? "no broadcast"
                : `broadcast ${host(subnet.broadcast, subnet.network)}`}
              , {subnet.kind}
            </span>
            {subnet.wildcard !== null && <code>wildcard {subnet.wildcard}</code>}
          </div>
          <div>
            <span>next free /{subnet.network.split("/")[1]}</span>
            <code>{subnet.next_free?.split("/")[0] ?? "none"}</code>
          </div>
        </>
      )}
      {children}
    </div>
  );
}

/** An address of a network: its last octet where the others are the network's own, else all of it. */
function host(address: string, network: string): string {
  const short = address.includes(".") && Number(network.split("/")[1]) >= 24;
  return short ? `.${address.split(".").slice(-1)[0] ?? ""}` : address;
}
