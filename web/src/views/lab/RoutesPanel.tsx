import { useEffect, useState } from "react";
import type { Schemas } from "../../api/client";
import { useWork } from "../../authoring/Authoring";
import { thoughts, type Edit } from "../../authoring/calls";
import { count, inWords } from "../../design/words";

interface Props {
  device: string;
  side: "given" | "answer";
  onEdit: (...edits: Edit[]) => Promise<boolean>;
}

type RouteForm = "via" | "out" | "both";

/** What a router knows and lacks, with the routes that would do: taken one by one, all at once, or as a summary. */
export function RoutesPanel({ device, side, onEdit }: Props) {
  const { state } = useWork();
  const { text, stage } = state;
  const [form, setForm] = useState<RouteForm>("via");
  const [loopbacks, setLoopbacks] = useState(true);
  const [all, setAll] = useState<Schemas["Thoughts"][]>([]);
  useEffect(() => {
    let stale = false;
    thoughts({ text, stage, sheet: null, form, loopbacks }).then(
      (found) => !stale && setAll(found.nodes),
      () => undefined, // what cannot be read is told elsewhere
    );
    return () => {
      stale = true;
    };
  }, [text, stage, form, loopbacks]);
  const own = all.filter((node) => node.node.split("/")[0] === device);
  const take = (statements: string[]) =>
    onEdit({
      do: "put-statements",
      side,
      device,
      header: "",
      statements: statements.filter((s) => s !== ""),
    });
  const lackedBy = all.filter((node) => node.lacks.some((l) => l.statement !== ""));
  const everyRouter = () =>
    onEdit(
      ...lackedBy.map((node): Edit => ({
        do: "put-statements",
        side,
        device: node.node.split("/")[0] ?? "",
        header: "",
        statements: node.lacks.map((l) => l.statement).filter((s) => s !== ""),
      })),
    );
  return (
    <>
      <p className="route-options">
        <label>
          as{" "}
          <select value={form} onChange={(event) => setForm(event.target.value as RouteForm)}>
            <option value="via">next hop</option>
            <option value="out">out-port</option>
            <option value="both">both</option>
          </select>
        </label>
        <label>
          <input
            type="checkbox"
            checked={loopbacks}
            onChange={(event) => setLoopbacks(event.target.checked)}
          />{" "}
          loopbacks, too
        </label>
      </p>
      {own.length === 0 && (
        <p className="soft">{device} does not forward: it needs a gateway, and no routes.</p>
      )}
      {own.map((node) => (
        <OfNode key={node.node} node={node} onTake={(statements) => void take(statements)} />
      ))}
      {lackedBy.length > 1 && (
        <p className="mt-3 mb-0">
          <button type="button" className="mend" onClick={() => void everyRouter()}>
            Give all {inWords(lackedBy.length)} routers the routes they lack
          </button>
        </p>
      )}
    </>
  );
}

function OfNode({ node, onTake }: { node: Schemas["Thoughts"]; onTake: (statements: string[]) => void }) {
  const own = node.knows.filter((known) => known.by === "connected");
  const routed = node.knows.filter((known) => known.by !== "connected");
  return (
    <>
      <p>
        {node.node.includes("/") && <b>{node.node}: </b>}
        Knows by itself: {own.map((known) => known.name || known.network).join(", ") || "nothing"}.{" "}
        <b>
          {node.lacks.length === 0
            ? "Lacks no network."
            : `Lacks ${count(node.lacks.length, "network").replace(/^\d+/, (n) => inWords(Number(n)))}.`}
        </b>
      </p>
      <table className="table routes">
        <thead>
          <tr>
            <th scope="col">to</th>
            <th scope="col">way</th>
            <th scope="col" aria-label="what can be done" />
          </tr>
        </thead>
        <tbody>
          {routed.map((known) => (
            <tr key={known.network}>
              <td className="mono" title={known.name}>
                {known.network}
              </td>
              <td className="mono">{known.by.replace(/^route \S+ /, "")}</td>
              <td className="soft">there</td>
            </tr>
          ))}
          {node.lacks.map((lacked) => (
            <tr key={lacked.network} className="proposed">
              <td className="mono" title={lacked.name}>
                {lacked.network}
              </td>
              <td
                className="mono"
                title={lacked.ways > 1 ? `one of ${lacked.ways} ways of the same length` : ""}
              >
                {lacked.statement === "" ? "no way there" : lacked.statement.replace(/^route \S+ /, "")}
              </td>
              <td>
                {lacked.statement !== "" && (
                  <button type="button" className="place" onClick={() => onTake([lacked.statement])}>
                    take
                  </button>
                )}
              </td>
            </tr>
          ))}
        </tbody>
      </table>
      {node.lacks.filter((l) => l.statement !== "").length > 1 && (
        <p className="mb-2">
          <button type="button" className="mend" onClick={() => onTake(node.lacks.map((l) => l.statement))}>
            Take all
          </button>
        </p>
      )}
      {node.summaries.map((summary) => (
        <p key={summary.statement} className="soft">
          One line for {inWords(summary.covers.length)}:{" "}
          <button type="button" className="place mono" onClick={() => onTake([summary.statement])}>
            {summary.statement}
          </button>
          {summary.beside.length > 0 && <b> takes in {summary.beside.join(", ")}, which lies elsewhere;</b>}
          {summary.more > 0
            ? ` also takes in ${summary.more.toLocaleString()} addresses that nobody has.`
            : " takes in nothing else."}
        </p>
      ))}
    </>
  );
}
