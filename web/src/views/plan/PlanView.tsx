import { useState } from "react";
import { Button, Form } from "react-bootstrap";
import { useNavigate } from "react-router";
import { useWork } from "../../authoring/Authoring";
import type { Look } from "../../authoring/calls";
import { Aside, Told, workKeys } from "../../authoring/Told";
import { atStage, stageKey, Stages, useStage } from "../../design/Stages";
import { View, Waiting } from "../../design/View";
import { count } from "../../design/words";
import { Findings } from "../lab/Findings";
import { SubnetHelper } from "./SubnetHelper";
import { csv, dotted, editsOf, gatewayEdit, linesOf, parse, rowsOf, type Line } from "./table";
import "./plan.css";
import { Labelled } from "../../design/Labelled";

const COLUMNS = ["address", "mask", "gateway"] as const;
type Column = (typeof COLUMNS)[number];
interface At {
  line: number;
  column: number;
}

/** The address plan: the same data as in the weave, as a table that is typed into, pasted into and copied from. */
export function PlanView() {
  const { look } = useWork();
  return look === null ? <Waiting error={null} /> : <Loaded look={look} />;
}

function Loaded({ look }: { look: Look }) {
  const navigate = useNavigate();
  const { work } = useWork();
  const [, setStage] = useStage();
  const [at, setAt] = useState<At>({ line: 0, column: 0 });
  const [typing, setTyping] = useState<string | null>(null);
  const [masks, setMasks] = useState(true);
  const [side, setSide] = useState<"given" | "answer">("answer");
  const [pasting, setPasting] = useState<string | null>(null);
  const lines = linesOf(look);
  const line = lines[Math.min(at.line, lines.length - 1)];
  const column = COLUMNS[at.column] ?? "address";
  const move = (down: number, right: number) => () =>
    setAt({
      line: Math.min(Math.max(at.line + down, 0), Math.max(lines.length - 1, 0)),
      column: Math.min(Math.max(at.column + right, 0), COLUMNS.length - 1),
    });
  const write = (typed: string) => {
    setTyping(null);
    if (line === undefined) return;
    const { device, port, prefixes } = line;
    if (column === "gateway") void work.edit(gatewayEdit(device, typed.trim(), line.gateway, side));
    else if (column === "address") void work.edit({ do: "set-address", device, port, typed, prefixes, side });
    else
      void work.edit({
        do: "set-address",
        device,
        port,
        typed: `${line.address}/${typed.trim().replace(/^\//, "")}`,
        prefixes,
        side,
      });
  };
  const paste = async () => {
    const edits = editsOf(parse(pasting ?? ""), side, lines);
    if (edits.length === 0 || (await work.edit(...edits))) setPasting(null);
  };
  const valueOf = (own: Line, of: Column) =>
    of === "gateway"
      ? own.gateway
      : of === "address"
        ? own.address || own.taken
        : masks
          ? dotted(own.length, own.address)
          : own.length && `/${own.length}`;
  const copy = () =>
    void navigator.clipboard.writeText(
      rowsOf(lines)
        .map((row) => row.join("\t"))
        .join("\n"),
    );
  const download = () => {
    const link = document.createElement("a");
    link.href = URL.createObjectURL(new Blob([csv(rowsOf(lines))], { type: "text/csv" }));
    link.download = `${work.slug}-addresses.csv`;
    link.click();
    URL.revokeObjectURL(link.href);
  };
  return (
    <View
      lab={{ slug: work.slug, title: look.title, stage: look.stage }}
      title={`Address plan: ${count(lines.filter((l) => l.address !== "").length, "address", "addresses")}`}
      about="The same as in the weave. Type a host part or a whole address; a mask as a length or in four numbers."
      aside={<Aside />}
      keys={[
        { key: "↑ ↓ ← →", on: ["ArrowUp"], does: "move", run: move(-1, 0) },
        { key: "ArrowDown", does: "", hidden: true, run: move(1, 0) },
        { key: "ArrowLeft", does: "", hidden: true, run: move(0, -1) },
        { key: "ArrowRight", does: "", hidden: true, run: move(0, 1) },
        { key: "Enter", does: "change", run: () => line && setTyping(valueOf(line, column)) },
        { key: "Del", on: ["Delete"], does: "take away", run: () => write("") },
        { key: "k", does: masks ? "masks as lengths" : "masks in four numbers", run: () => setMasks(!masks) },
        { key: "p", does: "paste", run: () => setPasting("") },
        { key: "y", does: "copy", run: copy },
        {
          key: "x",
          does: "given or model answer",
          run: () => setSide(side === "given" ? "answer" : "given"),
          more: true,
        },
        ...workKeys(work),
        {
          key: "l",
          does: "the weave",
          run: () => void navigate(atStage(`/labs/${work.slug}`, look.stage)),
          more: true,
        },
        ...stageKey(look.stages, look.stage, setStage),
        ..."0123456789.:/"
          .split("")
          .map((key) => ({ key, does: "", hidden: true, run: () => line && setTyping(key) })),
      ]}
      side={
        <>
          <Told />
          {pasting !== null && (
            <section className="lab-form">
              <h2>Paste from a spreadsheet</h2>
              <Labelled
                id="pasted"
                label="Device, port, address, mask, gateway; with heads in any order"
                className="my-2"
              >
                <Form.Control
                  as="textarea"
                  rows={7}
                  autoFocus
                  value={pasting}
                  onChange={(event) => setPasting(event.target.value)}
                />
              </Labelled>
              <div className="d-flex gap-2">
                <Button size="sm" onClick={() => void paste()}>
                  Put them in
                </Button>
                <Button size="sm" variant="light" onClick={() => setPasting(null)}>
                  Close
                </Button>
              </div>
            </section>
          )}
          <SubnetHelper
            typed={line?.address ? `${line.address}/${line.length}` : (line?.prefixes[0] ?? "")}
          />
          <section>
            <h2>To and from a spreadsheet</h2>
            <p className="port-acts">
              <button type="button" className="mend" onClick={copy}>
                Copy the table
              </button>
              <button type="button" className="mend" onClick={() => setPasting("")}>
                Paste rows
              </button>
              <button type="button" className="mend" onClick={download}>
                Save as CSV
              </button>
            </p>
            <p className="soft">
              What is new goes into {side === "given" ? "what is given" : "the model answer"}; what is there
              is changed where it stands.
            </p>
          </section>
          <Findings />
        </>
      }
    >
      <Stages stages={look.stages} stage={look.stage} onTurn={setStage} />
      <table className="table rows plan">
        <thead>
          <tr>
            <th scope="col">Device</th>
            <th scope="col">Port</th>
            <th scope="col">Network</th>
            <th scope="col">Address</th>
            <th scope="col">Mask</th>
            <th scope="col">Gateway</th>
          </tr>
        </thead>
        <tbody>
          {lines.map((own, n) => (
            <tr key={`${own.device} ${own.port} ${own.address}`} aria-current={n === at.line}>
              <td className="mono">{own.device}</td>
              <td className="mono">{own.port}</td>
              <td>{own.network}</td>
              {COLUMNS.map((of, c) => {
                const here = n === at.line && c === at.column;
                return (
                  <td key={of} className={here ? "mono at" : "mono"}>
                    {here && typing !== null ? (
                      <input
                        aria-label={`${of} of ${own.device} ${own.port}`}
                        autoFocus
                        defaultValue={typing}
                        onBlur={() => setTyping(null)}
                        onKeyDown={(event) => {
                          if (event.key === "Enter" || event.key === "ArrowDown" || event.key === "ArrowUp") {
                            write(event.currentTarget.value);
                            if (event.key !== "Enter") move(event.key === "ArrowDown" ? 1 : -1, 0)();
                          } else if (event.key === "Escape") setTyping(null);
                          else return;
                          event.preventDefault();
                          event.stopPropagation();
                        }}
                      />
                    ) : (
                      <button
                        type="button"
                        className="cell"
                        onClick={() => setAt({ line: n, column: c })}
                        onDoubleClick={() => setTyping(valueOf(own, of))}
                      >
                        {valueOf(own, of) || "–"}
                      </button>
                    )}
                  </td>
                );
              })}
            </tr>
          ))}
        </tbody>
      </table>
    </View>
  );
}
