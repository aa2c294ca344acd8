import { useState } from "react";
import { useNavigate, useParams } from "react-router";
import type { Schemas } from "../../api/client";
import { atOccasion, occasionOf } from "../../api/occasion";
import { usePaper } from "../../api/queries";
import { Log } from "../../design/Log";
import { View, Waiting } from "../../design/View";
import { count, marks, moment } from "../../design/words";
import { Doubts } from "../class/Chosen";
import { neighboursOf } from "../class/neighbours";
import { EveryMark } from "./EveryMark";
import { MarkedSheet } from "./MarkedSheet";
import { isCable, isRun, type Fault, type MarkedPaper } from "./types";
import { Arrived } from "./Arrived";
import { Attempts, Uncounted } from "./Attempts";
import { Comments } from "./Comments";
import { LookAgain } from "./LookAgain";
import { Mistakes } from "./Mistakes";
import { PaperPings } from "./PaperPings";
import { UnmarkedPaper } from "./UnmarkedPaper";
import "./paper.css";
import { upDown } from "../../design/keys";

/** Pages beside those of the devices, whose names have no blanks. */
const PINGS = "pings of the lab";
const MARKS = "every mark";

/** A marked paper: the learner's sheets with the marker's hand in them, the mistakes, both totals. */
export function PaperView() {
  const { paper: id = "" } = useParams();
  const paper = usePaper(Number(id));
  if (paper.data === undefined) return <Waiting error={paper.error} />;
  if (!isMarked(paper.data)) return <UnmarkedPaper key={paper.data.id} paper={paper.data} />;
  return <Loaded key={paper.data.id} paper={paper.data} />;
}

const isMarked = (paper: Schemas["PaperView"]): paper is MarkedPaper => paper.result !== null;

function Loaded({ paper }: { paper: MarkedPaper }) {
  const navigate = useNavigate();
  const { faults } = paper.result;
  const occasion = occasionOf(paper);
  const order = neighboursOf(paper.id) ?? paper;
  const [fault, setFault] = useState<Fault | undefined>(undefined);
  const [page, setPage] = useState(() => firstPage(paper));
  const pages = [...paper.sheets.map((s) => s.device), PINGS, MARKS];
  const turn = (by: number) => () => {
    setPage(pages[(pages.indexOf(page) + by + pages.length) % pages.length] ?? page);
  };
  const choose = (chosen: Fault | undefined) => {
    setFault(chosen);
    if (chosen !== undefined) setPage(pageOf(paper, chosen));
  };
  const nextFault = () =>
    choose(faults[fault === undefined ? 0 : (faults.indexOf(fault) + 1) % faults.length]);
  const open = (other: number | null) => () => {
    if (other !== null) void navigate(`/papers/${other}`);
  };
  const sheet = paper.sheets.find((s) => s.device === page);
  return (
    <View
      lab={{ slug: paper.slug, title: paper.lab, stage: paper.stage, sitting: paper.sitting }}
      ofPapers
      title={paper.result.learner}
      about={`${paper.stage_title === "" ? "" : `${paper.stage_title}; `}handed in ${moment(paper.received_at)}${paper.days_late > 0 ? `, ${count(paper.days_late, "day")} late` : ""}, marked with version ${paper.version} of the lab`}
      aside={paper.number > 0 ? `paper ${order.number} of ${order.of}` : "does not count"}
      keys={[
        ...upDown("sheets", (step) => turn(step)()),
        ...(faults.length > 0 ? [{ key: "m", does: "next mistake", run: nextFault }] : []),
        { key: "i", does: "pings", run: () => setPage(PINGS) },
        { key: "e", does: "every mark", run: () => setPage(MARKS) },
        { key: "p", does: "as the learner gets it", run: () => window.open(learners(paper)), more: true },
        { key: "[", does: "previous paper", run: open(order.previous), hidden: true },
        { key: "[ ]", on: ["]"], does: "previous and next paper", run: open(order.next) },
        {
          key: "g",
          does: "the class",
          run: () => void navigate(atOccasion(`/labs/${paper.slug}/class`, occasion)),
        },
        {
          key: "Esc",
          on: ["Escape"],
          does: "all papers",
          run: () => void navigate(atOccasion(`/labs/${paper.slug}/papers`, occasion)),
        },
      ]}
      side={
        <>
          <Mistakes paper={paper} fault={fault} onFault={choose} />
          <Comments paper={paper} />
          <Attempts paper={paper} />
          {paper.log.length > 0 && (
            <section className="mt-4">
              <h2>What was changed</h2>
              <Log entries={paper.log.map((entry) => ({ ...entry, learner: "" }))} />
            </section>
          )}
          <section className="mt-4">
            <h2>Out</h2>
            <p className="port-acts">
              <a href={learners(paper)} target="_blank">
                the page that the learner gets, to print
              </a>
            </p>
          </section>
          <Arrived paper={paper} />
        </>
      }
    >
      <Uncounted paper={paper} />
      {paper.doubts.length > 0 && <Doubts paper={paper.id} doubts={paper.doubts} />}
      <LookAgain paper={paper} />
      <div className="paper-desk">
        <nav aria-label="Sheets of the paper" className="pages">
          {pages.map((name) => (
            <button key={name} type="button" aria-current={name === page} onClick={() => setPage(name)}>
              <span>{name === PINGS ? "pings" : name}</span>
              <span className="mono">{told(paper, name)}</span>
            </button>
          ))}
        </nav>
        {sheet === undefined ? (
          page === MARKS ? (
            <EveryMark paper={paper} onDevice={setPage} />
          ) : (
            <PaperPings paper={paper} />
          )
        ) : (
          <MarkedSheet sheet={sheet} result={paper.result} fault={fault} onFault={choose} />
        )}
      </div>
    </View>
  );
}

/** Where the page is that the learner gets. */
const learners = (paper: MarkedPaper) => `/papers/${paper.id}/marked`;

/** The sheet in which a fault's line stands: its device's, unless sheets were exchanged. */
function pageOf(paper: MarkedPaper, fault: Fault): string {
  if (fault.device === "") return MARKS; // an answer to a question stands in no sheet
  const own = paper.sheets.find((s) => s.device === fault.device);
  if (own?.file === fault.file || fault.line === null) return fault.device;
  return paper.sheets.find((s) => s.file === fault.file)?.device ?? fault.device;
}

/** Begins at the first mistake in a sheet that there is, else at the first sheet that is asked for. */
function firstPage(paper: MarkedPaper): string {
  const written = (device: string) => paper.sheets.some((s) => s.device === device && s.text !== null);
  const mistaken = paper.result.faults.find((f) => written(f.device));
  return (mistaken && pageOf(paper, mistaken)) ?? paper.sheets.find((s) => s.asked)?.device ?? PINGS;
}

/** What stands behind the name of a page. */
function told(paper: MarkedPaper, name: string): string {
  if (name === PINGS) return share(paper, "");
  return name === MARKS ? `${marks(paper.result.score)}/${marks(paper.result.out_of)}` : earned(paper, name);
}

function earned(paper: MarkedPaper, device: string): string {
  return paper.sheets.some((s) => s.device === device && s.asked) ? share(paper, device) : "given";
}

/** The marks of a device's own criteria; of the pings where the device is empty, or of the cables. */
function share(paper: MarkedPaper, device: string): string {
  const cabling = paper.sheets.some((s) => s.device === device && s.kind === "cabling");
  const own = paper.result.criteria.filter((c) =>
    cabling ? isCable(c) : c.device === device && (device !== "" || isRun(c)),
  );
  const got = own.reduce((sum, c) => sum + c.marks * c.fraction, 0);
  return `${marks(got)}/${marks(own.reduce((sum, c) => sum + c.marks, 0))}`;
}
