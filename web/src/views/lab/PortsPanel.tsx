import { useState } from "react";
import type { Edit, Look } from "../../authoring/calls";
import { RenamePort } from "./forms";

interface Props {
  look: Look;
  device: string;
  onEdit: (...edits: Edit[]) => Promise<boolean>;
}

/** The ports of a device with what is at the other end of each: moved, taken out, renamed, clocked. */
export function PortsPanel({ look, device, onEdit }: Props) {
  const [renaming, setRenaming] = useState("");
  const [moving, setMoving] = useState("");
  const ports = look.ports[device] ?? [];
  const physical = ports.filter((port) => port.kind === "port");
  const others = ports.filter((port) => port.kind !== "port");
  return (
    <>
      {renaming !== "" && <RenamePort end={renaming} onEdit={onEdit} onClose={() => setRenaming("")} />}
      {physical.length === 0 && <p className="soft">No ports yet: they come as the device is joined.</p>}
      {physical.map((port) => {
        const end = `${device}:${port.name}`;
        const link = look.links.find((l) => l.a === end || l.b === end);
        return (
          <div className="entry port-entry" key={port.name}>
            <p>
              <b className="mono">{port.name}</b>{" "}
              {port.far_end === null ? (
                <span className="soft">joined to nothing</span>
              ) : (
                <>
                  joins <b className="mono">{port.far_end}</b>
                </>
              )}
              {port.why !== null && port.why !== "not linked" && (
                <span className="soft">, down: {port.why}</span>
              )}
            </p>
            {port.addresses.length > 0 && <p className="mono soft">{port.addresses.join(", ")}</p>}
            {link?.serial && <Clock link={link} onEdit={onEdit} />}
            <p className="port-acts">
              <button type="button" className="place" onClick={() => setRenaming(end)}>
                rename
              </button>
              {link && (
                <>
                  <button
                    type="button"
                    className="place"
                    onClick={() => setMoving(moving === end ? "" : end)}
                  >
                    move
                  </button>
                  <button type="button" className="place" onClick={() => void onEdit({ do: "unlink", end })}>
                    unplug
                  </button>
                </>
              )}
              <button type="button" className="place" onClick={() => void onEdit({ do: "remove-port", end })}>
                remove
              </button>
            </p>
            {moving === end && <Move end={end} look={look} onEdit={onEdit} onClose={() => setMoving("")} />}
          </div>
        );
      })}
      {others.map((port) => (
        <div className="entry port-entry" key={port.name}>
          <p>
            <b className="mono">{port.name}</b>{" "}
            <span className="soft">
              {port.kind}
              {port.why !== null && `, down: ${port.why}`}
            </span>
          </p>
          {port.addresses.length > 0 && <p className="mono soft">{port.addresses.join(", ")}</p>}
        </div>
      ))}
      <p className="port-acts mt-2">
        <button type="button" className="place" onClick={() => void onEdit({ do: "add-port", device })}>
          add a port
        </button>
        <button
          type="button"
          className="place"
          onClick={() => void onEdit({ do: "add-port", device, medium: "serial" })}
        >
          add a serial port
        </button>
      </p>
    </>
  );
}

/** Which end of a serial link gives the clock, and whether learners have to find that out. */
function Clock({ link, onEdit }: { link: Look["links"][number]; onEdit: Props["onEdit"] }) {
  const set = (clocked: string, hidden: boolean) =>
    void onEdit({ do: "set-clock", end: link.a, clocked, hidden });
  return (
    <p>
      <label>
        clock from{" "}
        <select value={link.clock ?? ""} onChange={(event) => set(event.target.value, link.hidden)}>
          <option value="">nobody</option>
          <option>{link.a}</option>
          <option>{link.b}</option>
        </select>
      </label>{" "}
      {link.clock !== null && (
        <label>
          <input
            type="checkbox"
            checked={link.hidden}
            onChange={(event) => set(link.clock ?? "", event.target.checked)}
          />{" "}
          hidden from learners
        </label>
      )}
    </p>
  );
}

/** Plugs an end of a cable into another free port. */
function Move({
  end,
  look,
  onEdit,
  onClose,
}: {
  end: string;
  look: Look;
  onEdit: Props["onEdit"];
  onClose: () => void;
}) {
  const taken = new Set(look.links.flatMap((l) => [l.a, l.b]));
  const serial = look.serial.includes(end);
  const free = Object.entries(look.ports).flatMap(([device, ports]) =>
    ports
      .filter((port) => port.kind === "port")
      .map((port) => `${device}:${port.name}`)
      .filter((other) => !taken.has(other) && look.serial.includes(other) === serial),
  );
  return (
    <p>
      <label>
        plug it into{" "}
        <select
          defaultValue=""
          onChange={(event) => {
            void onEdit({ do: "move-end", end, to: event.target.value });
            onClose();
          }}
        >
          <option value="" disabled>
            a free port
          </option>
          {free.map((one) => (
            <option key={one}>{one}</option>
          ))}
          {look.devices.map((one) => (
            <option key={one.device} value={one.device}>
              {one.device}, a new port
            </option>
          ))}
        </select>
      </label>
    </p>
  );
}
