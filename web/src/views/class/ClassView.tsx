import { lazy, Suspense, useRef, useState } from "react";
import { Form } from "react-bootstrap";
import { Link, useNavigate, useParams } from "react-router";
import type { Schemas } from "../../api/client";
import { useClass } from "../../api/queries";
import { useKept } from "../../authoring/useKept";
import { atStage, stageKey, Stages, useStage } from "../../design/Stages";
import { View, Waiting } from "../../design/View";
import { count, inWords, marks } from "../../design/words";
import { filtered, shortened, sorted, type By, type Order, type Row } from "./order";
import "./class.css";

const Understood = lazy(() => import("./Understood").then((m) => ({ default: m.Understood })));

/** The class of a lab: learners by tasks, sorted and filtered, and what it did not understand. */
export function ClassView() {
  const { slug = "" } = useParams();
  const [stage] = useStage();
  const found = useClass(slug, stage);
  if (found.data === undefined) return <Waiting error={found.error} />;
  return <Loaded key={`${slug} ${found.data.stage}`} view={found.data} />;
}

function Loaded({ view }: { view: Schemas["ClassView"] }) {
  const navigate = useNavigate();
  const [, setStage] = useStage();
  const { slug, stage } = view;
  const [order, setOrder] = useKept<Order>(`${slug} order`, { by: "total", falling: true });
  const [text, setText] = useKept(`${slug} find`, "");
  const [mistake, setMistake] = useKept(`${slug} mistake`, "");
  const [page, setPage] = useKept<"grid" | "understood">(`${slug} class page`, "grid");
  const [at, setAt] = useState(0);
  const search = useRef<HTMLInputElement>(null);
  const rows = sorted(filtered(view.learners, text, mistake), order);
  const row = rows[Math.min(at, rows.length - 1)];
  const sortBy = (by: By) => setOrder({ by, falling: order.by === by ? !order.falling : by !== "learner" });
  const columns: By[] = ["learner", ...view.tasks.map((_, n) => n), "total", "mistakes"];
  const next = () => {
    const by = columns[(columns.indexOf(order.by) + 1) % columns.length];
    if (by !== undefined) setOrder({ by, falling: by !== "learner" });
  };
  const file = (suffix: string, more = "") =>
    `${atStage(`/results/${slug}.${suffix}`, stage)}${more === "" ? "" : `${stage === "" ? "?" : "&"}${more}`}`;
  const middle = view.distribution;
  return (
    <View
      lab={{ slug, title: view.lab, stage }}
      title={
        view.learners.length === 0
          ? "No marked papers yet"
          : `${inWords(view.learners.length, true)} learners${middle ? `, median ${marks(middle.median)} of ${marks(view.out_of)}` : ""}`
      }
      about={
        view.waiting > 0
          ? `${count(view.waiting, "paper")} ${view.waiting === 1 ? "is" : "are"} still being marked.`
          : "Each mistake costs once: what only follows from one counts as earned."
      }
      aside={
        <button
          type="button"
          className="place"
          onClick={() => setPage(page === "grid" ? "understood" : "grid")}
        >
          {page === "grid" ? "what the class did not understand" : "learners by tasks"}
        </button>
      }
      keys={[
        { key: "↑", on: ["ArrowUp"], does: "previous", run: () => setAt(Math.max(0, at - 1)) },
        { key: "↓", on: ["ArrowDown"], does: "next", run: () => setAt(Math.min(rows.length - 1, at + 1)) },
        { key: "Enter", does: "open the paper", run: () => row && void navigate(`/papers/${row.paper}`) },
        { key: "o", does: "sort by the next column", run: next },
        { key: "r", does: "reverse", run: () => setOrder({ ...order, falling: !order.falling }) },
        { key: "/", does: "find a learner", run: () => search.current?.focus() },
        {
          key: "s",
          does: page === "grid" ? "what was not understood" : "the grid",
          run: () => setPage(page === "grid" ? "understood" : "grid"),
        },
        ...stageKey(view.stages, stage, setStage),
        { key: "p", does: "papers", run: () => void navigate(atStage(`/labs/${slug}/papers`, stage)) },
      ]}
      side={
        <>
          {row && page === "grid" && <Chosen row={row} view={view} />}
          <section>
            <h2>Mistakes</h2>
            {view.slips.length === 0 && <p className="soft">Nobody made one.</p>}
            {view.slips.slice(0, 14).map((slip) => (
              <p key={slip.slip} className="mb-1">
                <button
                  type="button"
                  className="slip"
                  aria-pressed={mistake === slip.title}
                  onClick={() => {
                    setMistake(mistake === slip.title ? "" : slip.title);
                    setAt(0);
                  }}
                >
                  {slip.title}
                </button>{" "}
                <span className="soft">
                  {count(slip.learners.length, "learner")}, {marks(slip.cost)}{" "}
                  {slip.cost === 1 ? "mark" : "marks"}
                </span>
              </p>
            ))}
          </section>
          <section>
            <h2>Out</h2>
            <p className="port-acts">
              <a href={file("csv")}>CSV</a>
              <a href={file("csv", "separator=;")}>with semicolons</a>
              <a href={file("csv", "columns=learner,carried,grade,tasks,criteria")}>every criterion</a>
            </p>
            <p className="port-acts">
              <a href={file("json")}>JSON</a>
              <a href={file("zip")}>marked papers, a page for each</a>
            </p>
          </section>
        </>
      }
    >
      <Stages stages={view.stages} stage={stage} onTurn={setStage} />
      {page === "understood" ? (
        <Suspense fallback={<p className="soft">One moment …</p>}>
          <Understood view={view} />
        </Suspense>
      ) : (
        <>
          <div className="class-find">
            <Form.Control
              ref={search}
              size="sm"
              aria-label="Find a learner"
              placeholder="find a learner"
              value={text}
              onChange={(event) => {
                setText(event.target.value);
                setAt(0);
              }}
              onKeyDown={(event) => event.key === "Escape" && event.currentTarget.blur()}
            />
            {mistake !== "" && (
              <span>
                {count(rows.length, "learner")} with {mistake.toLocaleLowerCase()}{" "}
                <button type="button" className="place" onClick={() => setMistake("")}>
                  show all
                </button>
              </span>
            )}
          </div>
          <div className="class-wide">
            <Grid view={view} rows={rows} order={order} at={at} onSort={sortBy} onAt={setAt} />
          </div>
        </>
      )}
    </View>
  );
}

interface GridProps {
  view: Schemas["ClassView"];
  rows: Row[];
  order: Order;
  at: number;
  onSort: (by: By) => void;
  onAt: (at: number) => void;
}

function Grid({ view, rows, order, at, onSort, onAt }: GridProps) {
  const short = shortened(view.tasks.map((task) => task.name));
  const head = (by: By, label: string, worth?: number) => (
    <th
      scope="col"
      className={by === "learner" || by === "mistakes" ? "" : "number"}
      aria-sort={order.by === by ? (order.falling ? "descending" : "ascending") : undefined}
    >
      <button type="button" className="sort" title={label} onClick={() => onSort(by)}>
        {typeof by === "number" ? short[by] : label}
        {order.by === by && <span aria-hidden="true">{order.falling ? " ↓" : " ↑"}</span>}
      </button>
      {worth !== undefined && <span className="soft d-block">of {marks(worth)}</span>}
    </th>
  );
  return (
    <table className="table rows class-grid">
      <thead>
        <tr>
          {head("learner", "Learner")}
          {view.tasks.map((task, n) => (
            <Fragmented key={task.name}>{head(n, task.name, task.marks)}</Fragmented>
          ))}
          {head("total", "Total", view.out_of)}
          {head("mistakes", "Mistakes")}
        </tr>
      </thead>
      <tbody>
        {rows.map((row, n) => (
          <tr key={row.paper} aria-current={n === at} onClick={() => onAt(n)}>
            <td>
              <Link to={`/papers/${row.paper}`}>{row.learner}</Link>
            </td>
            {row.tasks.map((earned, t) => (
              <td key={view.tasks[t]?.name} className="number">
                <Ink share={earned / (view.tasks[t]?.marks || 1)}>{marks(earned)}</Ink>
              </td>
            ))}
            <td className="number">
              <b>{marks(row.carried)}</b>
              {row.grade !== null && <span className="soft"> {row.grade}</span>}
              {row.overruled && <span className="visually-hidden"> overruled</span>}
            </td>
            <td className="soft">{row.mistakes.length === 0 ? "none" : row.mistakes.length}</td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}

const Fragmented = ({ children }: { children: React.ReactNode }) => <>{children}</>;

/** A share as an amount of ink behind its number. */
const Ink = ({ share, children }: { share: number; children: React.ReactNode }) => (
  <span
    className="ink"
    style={{ "--share": `${Math.round(100 * Math.min(1, Math.max(0, share)))}%` } as React.CSSProperties}
  >
    {children}
  </span>
);

function Chosen({ row, view }: { row: Row; view: Schemas["ClassView"] }) {
  const counts = new Map<string, number>();
  for (const one of row.mistakes) counts.set(one, (counts.get(one) ?? 0) + 1);
  return (
    <section>
      <h2>
        {row.learner}: {marks(row.carried)} of {marks(view.out_of)}
      </h2>
      <p>
        {counts.size === 0
          ? "No mistake."
          : [...counts].map(([name, n]) => (n === 1 ? name : `${name} (${n})`)).join(", ")}
      </p>
      <Link to={`/papers/${row.paper}`}>Open the paper</Link>
    </section>
  );
}
