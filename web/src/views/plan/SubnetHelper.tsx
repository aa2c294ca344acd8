import { useEffect, useState } from "react";
import { Form } from "react-bootstrap";
import type { Schemas } from "../../api/client";
import { useWork } from "../../authoring/Authoring";
import { subnetOf } from "../../authoring/calls";

/** The figures of a network with how each comes about; of the one at the cursor, or of what is typed. */
export function SubnetHelper({ typed: here }: { typed: string }) {
  const { state } = useWork();
  const { text, stage } = state;
  const [own, setOwn] = useState("");
  const [size, setSize] = useState("");
  const [help, setHelp] = useState<Schemas["SubnetHelp"] | null>(null);
  const [said, setSaid] = useState("");
  const typed = own === "" ? here : own;
  const length = /^\/?\d{1,2}$/.test(size) ? Number(size.replace("/", "")) : null;
  useEffect(() => {
    if (typed === "") return;
    let stale = false;
    subnetOf({ text, stage, sheet: null, typed, length }).then(
      (found) => {
        if (stale) return;
        setHelp(found.subnet);
        setSaid("");
      },
      (error: unknown) => !stale && setSaid(error instanceof Error ? error.message : ""),
    );
    return () => {
      stale = true;
    };
  }, [text, stage, typed, length]);
  return (
    <section>
      <h2>{help && typed !== "" ? `${help.network}, ${help.kind}` : "Subnet helper"}</h2>
      <div className="helper-field">
        <Form.Control
          size="sm"
          aria-label="Another network to work out"
          placeholder={here === "" ? "10.64.8.0/24" : here}
          value={own}
          onChange={(event) => setOwn(event.target.value)}
        />
        <Form.Control
          size="sm"
          aria-label="Length of a free network to look for"
          placeholder="find a free /26"
          value={size}
          onChange={(event) => setSize(event.target.value)}
        />
      </div>
      {said !== "" && <p className="soft">{said}</p>}
      {help && typed !== "" && (
        <>
          <table className="table figures">
            <tbody>
              {help.figures.map((figure) => (
                <tr key={figure.name}>
                  <th scope="row">{figure.name}</th>
                  <td className="mono">{figure.value}</td>
                  <td className="soft">{figure.why}</td>
                </tr>
              ))}
            </tbody>
          </table>
          <p>
            {help.overlaps.length === 0 ? (
              "It overlaps nothing in this lab."
            ) : (
              <b>Overlaps {help.overlaps.join(", ")}.</b>
            )}{" "}
            Next free address: <span className="mono">{help.host ?? "none"}</span>. Next free network of its
            size: <span className="mono">{help.same ?? "none"}</span>.
            {length !== null && (
              <>
                {" "}
                Next free /{length}: <span className="mono">{help.size ?? "none"}</span>.
              </>
            )}
          </p>
        </>
      )}
    </section>
  );
}
