import { useEffect, useState } from "react";
import { Link, useNavigate, useParams } from "react-router";
import type { Schemas } from "../../api/client";
import { atOccasion, occasionOf } from "../../api/occasion";
import { isWaiting, usePapers } from "../../api/queries";
import { useOccasion } from "../../design/occasion";
import { atStage, stageKey, Stages, useStage } from "../../design/Stages";
import { View, Waiting } from "../../design/View";
import { count, inSentence, inWords, marks } from "../../design/words";
import { keepOrder } from "../class/neighbours";
import { Marking } from "./Marking";
import { Upload } from "./Upload";
import "./papers.css";

/** The papers of a lab: upload, and the list with scores. */
export function PapersView() {
  const { slug = "" } = useParams();
  const wanted = useOccasion();
  const [, setStage] = useStage();
  const list = usePapers(slug, wanted);
  const navigate = useNavigate();
  const [at, setAt] = useState(0);
  useEffect(() => keepOrder(list.data?.papers.map((paper) => paper.id) ?? []), [list.data]);
  if (list.data === undefined) return <Waiting error={list.error} />;
  const { papers, lab, version, stage, stages, sitting } = list.data;
  const occasion = occasionOf(list.data);
  const turn = (to: string) => {
    setStage(to);
    setAt(0);
  };
  const open = (n: number) => {
    const paper = papers[n];
    if (paper !== undefined) void navigate(`/papers/${paper.id}`);
  };
  return (
    <View
      lab={{ slug, title: lab, stage, sitting }}
      title={
        papers.length === 0
          ? "No papers yet"
          : `${inWords(papers.length, true)} ${papers.length === 1 ? "paper" : "papers"}, ${howFar(papers)}`
      }
      about={
        papers.length === 0
          ? "Put a class in as one archive at the right, or the sheets of one learner; they are marked as they come in."
          : `Marked with version ${version} of the lab. Each mistake costs once; behind it the sum as it stands.`
      }
      keys={[
        { key: "↑", on: ["ArrowUp"], does: "previous paper", run: () => setAt(Math.max(0, at - 1)) },
        {
          key: "↓",
          on: ["ArrowDown"],
          does: "next paper",
          run: () => setAt(Math.min(papers.length - 1, at + 1)),
        },
        { key: "Enter", does: "open the paper", run: () => open(at) },
        ...stageKey(stages, stage, turn),
        { key: "u", does: "upload", run: () => document.getElementById("choose-files")?.click() },
        {
          key: "g",
          does: "the class",
          run: () => void navigate(atOccasion(`/labs/${slug}/class`, occasion)),
        },
        { key: "l", does: "the lab", run: () => void navigate(atStage(`/labs/${slug}`, stage)) },
      ]}
      side={
        <>
          <Upload slug={slug} occasion={occasion} />
          {sitting === null && (
            <section>
              <h2>For a class</h2>
              <p className="soft">
                A sitting has a roster, closing times, numbers of the learners’ own, and what was decided.
              </p>
              <Link to={`/sittings?lab=${slug}`}>Give this lab to a class</Link>
            </section>
          )}
        </>
      }
    >
      <Stages stages={stages} stage={stage} onTurn={turn} />
      <Marking slug={slug} occasion={occasion} />
      <MarkedAgain papers={papers} />
      {papers.length > 0 && (
        <table className="table rows">
          <thead>
            <tr>
              <th scope="col">Learner</th>
              <th scope="col" className="w-25">
                <span className="visually-hidden">Share</span>
              </th>
              <th scope="col" className="number">
                of {marks(outOf(papers))}
              </th>
              <th scope="col" className="number">
                as it stands
              </th>
              <th scope="col" className="mistakes">
                Mistakes
              </th>
            </tr>
          </thead>
          <tbody>
            {papers.map((paper, n) => (
              <tr
                key={paper.id}
                aria-current={n === at}
                onMouseEnter={() => setAt(n)}
                onClick={() => open(n)}
              >
                <td>
                  <Link to={`/papers/${paper.id}`}>{paper.learner}</Link>
                </td>
                {paper.result === null ? (
                  <td colSpan={4} className={paper.failure === null ? "soft" : "pencil"}>
                    {paper.failure === null ? "being marked …" : `not marked: ${paper.failure}`}
                  </td>
                ) : (
                  <Marked result={paper.result} again={paper.look_again} />
                )}
              </tr>
            ))}
          </tbody>
        </table>
      )}
    </View>
  );
}

/** What was found of a paper. */
function Marked({ result, again }: { result: Result; again: number }) {
  return (
    <>
      <td>
        <Bar result={result} />
      </td>
      <td className="number">
        <b>{marks(result.carried)}</b>
        {result.grade !== null && <span className="soft"> {result.grade}</span>}
        {result.was !== null && <span className="soft d-block">was {marks(result.was)}</span>}
      </td>
      <td className="number soft">{marks(result.score)}</td>
      <td className="soft mistakes">
        {told(result.mistakes)}
        {again > 0 && <span className="pencil d-block">{count(again, "decision")} to look at again</span>}
      </td>
    </>
  );
}

/** Says that the marking itself was mended since, and what came of it. */
function MarkedAgain({ papers }: { papers: Card[] }) {
  const changed = resultsOf(papers).filter((result) => result.was !== null);
  if (changed.length === 0) return null;
  const most = Math.max(...changed.map(({ carried, was }) => Math.abs(carried - (was ?? carried))));
  return (
    <p className="said">
      Zensur has been updated since these papers were first marked, and they were marked again:{" "}
      {inWords(changed.length)} of {papers.length} changed, by {marks(most)} {most === 1 ? "mark" : "marks"}{" "}
      at most. The earlier total stands below the new one.
    </p>
  );
}

function Bar({ result }: { result: Result }) {
  const share = (value: number) => `${result.out_of > 0 ? (100 * value) / result.out_of : 0}%`;
  return (
    <div className="score-bar" aria-hidden="true">
      <div className="carried" style={{ width: share(result.carried) }} />
      <div className="score" style={{ width: share(result.score) }} />
    </div>
  );
}

function told(mistakes: string[]): string {
  const counts = new Map<string, number>();
  for (const mistake of mistakes) counts.set(mistake, (counts.get(mistake) ?? 0) + 1);
  const said = [...counts].map(([name, n]) => (n === 1 ? inSentence(name) : `${inSentence(name)} (${n})`));
  return said.length === 0 ? "none" : said.join(", ");
}

type Card = Schemas["PaperCard"];
type Result = Schemas["CardResult"];

const resultsOf = (papers: Card[]) => papers.flatMap((paper) => paper.result ?? []);
const outOf = (papers: Card[]) => resultsOf(papers)[0]?.out_of ?? 0;

/** The median, or how many are marked as long as some are not. */
function howFar(papers: Card[]): string {
  const results = resultsOf(papers);
  if (papers.some(isWaiting)) return `${results.length === 0 ? "none" : results.length} marked so far`;
  if (results.length === 0) return "none of them marked";
  const sorted = results.map((result) => result.carried).sort((a, b) => a - b);
  const [low, high] = [sorted[(sorted.length - 1) >> 1] ?? 0, sorted[sorted.length >> 1] ?? 0];
  return `median ${marks((low + high) / 2)} of ${marks(outOf(papers))}`;
}
