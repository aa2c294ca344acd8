import { lazy, Suspense, useEffect, useMemo, useRef, useState } from "react";
import { useNavigate, useParams } from "react-router";
import type { Schemas } from "../../api/client";
import { atOccasion, occasionOf } from "../../api/occasion";
import { useClass } from "../../api/queries";
import { useKept } from "../../authoring/useKept";
import { useOccasion } from "../../design/occasion";
import { stageKey, Stages, useStage } from "../../design/Stages";
import { View, Waiting } from "../../design/View";
import { count, inWords, marks } from "../../design/words";
import { Marking } from "../papers/Marking";
import "../papers/papers.css";
import { Chosen } from "./Chosen";
import { Filters } from "./Filters";
import { Grid } from "./Grid";
import { keepOrder } from "./neighbours";
import { ALL, columnsOf, filtered, MISTAKES, NAME, sorted, TOTAL, type Filter, type Order } from "./order";
import { Out } from "./Out";
import "./class.css";
import { upDown, type Key } from "../../design/keys";

const Understood = lazy(() => import("./Understood").then((m) => ({ default: m.Understood })));

/** The class of an occasion: learners by tasks, sorted and filtered, and what it did not understand. */
export function ClassView() {
  const { slug = "" } = useParams();
  const found = useClass(slug, useOccasion());
  if (found.data === undefined) return <Waiting error={found.error} />;
  const { stage, sitting } = found.data;
  return <Loaded key={`${slug} ${stage} ${sitting?.number ?? ""}`} view={found.data} />;
}

function Loaded({ view }: { view: Schemas["ClassView"] }) {
  const navigate = useNavigate();
  const [, setStage] = useStage();
  const { slug, stage } = view;
  const occasion = occasionOf(view);
  const kept = atOccasion(slug, occasion);
  const [order, setOrder] = useKept<Order>(`${kept} order`, { by: TOTAL, falling: true });
  const [filter, setFilter] = useKept<Filter>(`${kept} filter`, ALL);
  const [page, setPage] = useKept<"grid" | "understood">(`${kept} class page`, "grid");
  const [opened, setOpened] = useKept(`${kept} opened`, "");
  const [cursor, setCursor] = useKept(`${kept} cursor`, { at: 0, across: 0 });
  const search = useRef<HTMLInputElement>(null);
  const columns = useMemo(() => columnsOf(view, opened), [view, opened]);
  const rows = useMemo(
    () => sorted(filtered(view.learners, filter, columns), order, columns),
    [view, filter, order, columns],
  );
  useEffect(() => keepOrder(rows.flatMap((row) => row.paper ?? [])), [rows]);
  const at = Math.min(cursor.at, Math.max(0, rows.length - 1));
  const across = Math.min(cursor.across, Math.max(0, columns.length - 1));
  const row = rows[at];
  const move = (down: number, right: number) => () =>
    setCursor({
      at: Math.min(Math.max(0, at + down), Math.max(0, rows.length - 1)),
      across: Math.min(Math.max(0, across + right), Math.max(0, columns.length - 1)),
    });
  const narrow = (more: Partial<Filter>) => {
    setFilter({ ...filter, ...more });
    setCursor({ at: 0, across });
  };
  const sortBy = (by: string) => setOrder({ by, falling: order.by === by ? !order.falling : by !== NAME });
  const task = columns[across]?.task ?? "";
  const turnPage = () => setPage(page === "grid" ? "understood" : "grid");
  const open = () => row?.paper && void navigate(`/papers/${row.paper}`);
  const keys: Key[] = [
    ...upDown("learners", (step) => move(step, 0)()),
    { key: "←", on: ["ArrowLeft"], does: "previous task", run: move(0, -1), hidden: true },
    { key: "← →", on: ["ArrowRight"], does: "tasks", run: move(0, 1) },
    { key: "Enter", does: "open the paper", run: open },
    { key: "o", does: "sort by this task", run: () => sortBy(columns[across]?.name ?? TOTAL) },
    { key: "T", does: "sort by the total", run: () => sortBy(TOTAL), more: true },
    { key: "N", does: "sort by name", run: () => sortBy(NAME), more: true },
    { key: "M", does: "sort by mistakes", run: () => sortBy(MISTAKES), more: true },
    { key: "r", does: "reverse", run: () => setOrder({ ...order, falling: !order.falling }), more: true },
    { key: "c", does: "its criteria", run: () => setOpened(opened === task ? "" : task) },
    { key: "/", does: "find a learner", run: () => search.current?.focus() },
    {
      key: "d",
      does: "only what is doubtful",
      run: () => narrow({ arrived: filter.arrived === "doubtful" ? "" : "doubtful" }),
    },
    { key: "s", does: page === "grid" ? "what was not understood" : "the grid", run: turnPage },
    ...stageKey(view.stages, stage, setStage),
    {
      key: "b",
      does: "mark by hand",
      run: () => void navigate(atOccasion(`/labs/${slug}/by-hand`, occasion)),
      more: true,
    },
    { key: "p", does: "papers", run: () => void navigate(atOccasion(`/labs/${slug}/papers`, occasion)) },
  ];
  return (
    <View
      lab={{ slug, title: view.lab, stage, sitting: view.sitting }}
      title={heading(view)}
      about={about(view)}
      aside={
        <button type="button" className="place" onClick={turnPage}>
          {page === "grid" ? "what the class did not understand" : "learners by tasks"}
        </button>
      }
      keys={keys}
      side={
        <>
          {row && page === "grid" && <Chosen row={row} column={columns[across]} outOf={view.out_of} />}
          <Slips view={view} chosen={filter.mistake} onChoose={(mistake) => narrow({ mistake })} />
          <Out slug={slug} occasion={occasion} />
        </>
      }
    >
      <Stages stages={view.stages} stage={stage} onTurn={setStage} />
      <Marking slug={slug} occasion={occasion} />
      {page === "understood" ? (
        <Suspense fallback={<p className="soft">One moment …</p>}>
          <Understood view={view} />
        </Suspense>
      ) : (
        <>
          <Filters
            view={view}
            columns={columns}
            filter={filter}
            shown={rows.length}
            search={search}
            onFilter={narrow}
          />
          <Grid
            rows={rows}
            columns={columns}
            outOf={view.out_of}
            order={order}
            at={at}
            across={across}
            opened={opened}
            onSort={sortBy}
            onAt={(to, column) => setCursor({ at: to, across: column })}
            onOpen={setOpened}
          />
        </>
      )}
    </View>
  );
}

function heading(view: Schemas["ClassView"]): string {
  const middle = view.distribution;
  const handedIn = view.learners.filter((row) => row.paper !== null).length;
  if (handedIn === 0) return view.learners.length > 0 ? "Nobody has handed in yet" : "No papers yet";
  const number = view.learners.length;
  const who =
    handedIn < number
      ? `${inWords(handedIn, true)} of ${count(number, "learner")} handed in`
      : count(number, "learner").replace(/^\d+/, inWords(number, true));
  return middle ? `${who}, median ${marks(middle.median)} of ${marks(view.out_of)}` : who;
}

function about(view: Schemas["ClassView"]): string {
  const late = view.learners.filter((row) => row.days_late > 0).length;
  const doubtful = view.learners.filter((row) => row.doubts.length > 0).length;
  const said = [
    late > 0 && `${late} late`,
    view.waiting > 0 && `${view.waiting} not marked yet`,
    doubtful > 0 && `${doubtful} to be looked at`,
    view.sitting && (view.released === null ? "marks held" : "marks released"),
  ].filter((part) => typeof part === "string");
  const rule = "Each mistake costs once: what only follows from one counts as earned.";
  return said.length > 0 ? `${said.join(", ")}. ${rule}` : rule;
}

interface SlipsProps {
  view: Schemas["ClassView"];
  chosen: string;
  onChoose: (mistake: string) => void;
}

/** The kinds of mistakes, those of most learners first; one that is chosen narrows the grid. */
function Slips({ view, chosen, onChoose }: SlipsProps) {
  const [all, setAll] = useState(false);
  const most = all ? view.slips.length : 8;
  return (
    <section>
      <h2>Mistakes</h2>
      {view.slips.length === 0 && <p className="soft">Nobody made one.</p>}
      {view.slips.slice(0, most).map((slip) => (
        <p key={slip.slip} className="mb-1">
          <button
            type="button"
            className="slip"
            aria-pressed={chosen === slip.title}
            onClick={() => onChoose(chosen === slip.title ? "" : slip.title)}
          >
            {slip.title}
          </button>{" "}
          <span className="soft">
            {count(slip.learners.length, "learner")}, {marks(slip.cost)} {slip.cost === 1 ? "mark" : "marks"}
          </span>
        </p>
      ))}
      {view.slips.length > most && (
        <button type="button" className="as-link" onClick={() => setAll(true)}>
          {view.slips.length - most} more
        </button>
      )}
    </section>
  );
}
