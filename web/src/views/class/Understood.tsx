import type { ReactNode } from "react";
import { Link } from "react-router";
import { Bar, BarChart, CartesianGrid, Scatter, ScatterChart, Tooltip, XAxis, YAxis } from "recharts";
import type { Schemas } from "../../api/client";
import { atOccasion, occasionOf } from "../../api/occasion";
import { count, marks } from "../../design/words";
import { Terms } from "./Terms";

const WIDTH = 384;
const HEIGHT = 220;

const share = (value: number) => `${Math.round(100 * value)} %`;
const figure = (value: number | null) => (value === null ? "–" : value.toFixed(2));

/** What the class did not understand: each plot with its table, readable in print and without colour. */
export function Understood({ view }: { view: Schemas["ClassView"] }) {
  const spread = view.distribution;
  if (spread === null) return <p className="soft">There is nothing to say before papers are marked.</p>;
  const bars = spread.bars.map((learners, n) => ({ from: `${n * 10}`, learners }));
  const points = view.items
    .filter((item) => item.discrimination !== null)
    .map((item) => ({ id: item.id, difficulty: item.difficulty, discrimination: item.discrimination }));
  const missed = view.items.filter((item) => item.missed_by_strong);
  const papers = new Map(
    view.learners.flatMap((row) => (row.paper === null ? [] : [[row.learner, row.paper]])),
  );
  return (
    <div className="understood">
      <div className="plots">
        <figure>
          <figcaption>Learners by per cent of the marks</figcaption>
          <BarChart width={WIDTH} height={HEIGHT} data={bars} margin={{ left: -24, right: 4, top: 8 }}>
            <CartesianGrid vertical={false} stroke="var(--rule-faint)" />
            <XAxis dataKey="from" tick={{ fill: "var(--ink-soft)", fontSize: 12 }} />
            <YAxis allowDecimals={false} tick={{ fill: "var(--ink-soft)", fontSize: 12 }} />
            <Tooltip cursor={{ fill: "var(--action-tint)" }} />
            <Bar dataKey="learners" fill="var(--action)" isAnimationActive={false} />
          </BarChart>
        </figure>
        <figure>
          <figcaption>Criteria: how much is earned, and how well that tells strong from weak</figcaption>
          <ScatterChart width={WIDTH} height={HEIGHT} margin={{ left: -16, right: 8, top: 8 }}>
            <CartesianGrid stroke="var(--rule-faint)" />
            <XAxis
              type="number"
              dataKey="difficulty"
              domain={[0, 1]}
              tick={{ fill: "var(--ink-soft)", fontSize: 12 }}
            />
            <YAxis
              type="number"
              dataKey="discrimination"
              domain={[-1, 1]}
              tick={{ fill: "var(--ink-soft)", fontSize: 12 }}
            />
            <Tooltip cursor={false} />
            <Scatter data={points} fill="var(--action)" isAnimationActive={false} />
          </ScatterChart>
        </figure>
      </div>
      <table className="table spread">
        <thead>
          <tr>
            <th scope="col">per cent of the marks</th>
            {spread.bars.map((_, n) => (
              <th key={n} scope="col" className="number">
                {n * 10} to {n * 10 + 10}
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          <tr>
            <th scope="row">learners</th>
            {spread.bars.map((learners, n) => (
              <td key={n} className="number">
                {learners}
              </td>
            ))}
          </tr>
        </tbody>
      </table>
      <p>
        {count(spread.learners, "learner")}: lower quartile {marks(spread.lower)}, median{" "}
        {marks(spread.median)}, upper quartile {marks(spread.upper)}, mean {marks(spread.mean)}, standard
        deviation {marks(spread.deviation)}; from {marks(spread.least)} to {marks(spread.most)} of{" "}
        {marks(spread.out_of)}. Alpha of the scheme: {figure(view.reliability.alpha)}.
      </p>
      {missed.length > 0 && (
        <p>
          <b>The strongest quarter misses, too:</b> {missed.map((item) => item.id).join(", ")}.
        </p>
      )}
      <h2>Criteria, the hardest first</h2>
      <table className="table">
        <thead>
          <tr>
            <th scope="col">Criterion</th>
            <th scope="col" className="number">
              Earned
            </th>
            <th scope="col" className="number">
              Discrimination
            </th>
            <th scope="col" className="number">
              Strongest quarter
            </th>
            <th scope="col" className="number">
              Alpha without it
            </th>
          </tr>
        </thead>
        <tbody>
          {[...view.items]
            .sort((a, b) => a.difficulty - b.difficulty)
            .map((item) => (
              <tr key={item.id}>
                <td className="mono">{item.id}</td>
                <td className="number">{share(item.difficulty)}</td>
                <td className="number">{figure(item.discrimination)}</td>
                <td className="number">{share(item.strong)}</td>
                <td className="number">{figure(view.reliability.without[item.id] ?? null)}</td>
              </tr>
            ))}
        </tbody>
      </table>
      <h2>
        {view.clusters.length === 0 ? "No group of papers goes wrong alike" : "Papers that go wrong alike"}
      </h2>
      {view.clusters.map((cluster) => (
        <p key={cluster.learners.join()}>
          <b>{cluster.learners.join(", ")}</b>:{" "}
          {cluster.shared.join("; ") || "different mistakes of the same kind"}
        </p>
      ))}
      <h2>
        {view.pairs.length + view.borrowed.length === 0
          ? "No two papers share what few others have"
          : "Questions to ask: papers that share what few others have"}
      </h2>
      {view.borrowed.map((own) => (
        <Alike key={own.learner} view={view} a={own.learner} b={own.of} papers={papers}>
          : {own.learner} has the numbers of {own.of} in {own.criteria.join("; ")}
        </Alike>
      ))}
      {view.pairs.map((pair) => (
        <Alike key={pair.a + pair.b} view={view} a={pair.a} b={pair.b} papers={papers}>
          {" "}
          share {pair.shared.join("; ")} ({pair.weight} bits)
        </Alike>
      ))}
      <Terms slug={view.slug} />
    </div>
  );
}

/** Two papers, with the way to each and to both side by side, and why. */
function Alike(props: {
  view: Schemas["ClassView"];
  a: string;
  b: string;
  papers: Map<string, number>;
  children: ReactNode;
}) {
  const { view, a, b } = props;
  const of = (learner: string) => props.papers.get(learner) ?? 0;
  const both = { a: String(of(a)), b: String(of(b)) };
  return (
    <p>
      <Link to={`/papers/${of(a)}`}>{a}</Link> and <Link to={`/papers/${of(b)}`}>{b}</Link>
      <span className="soft">{props.children}</span>{" "}
      <Link to={atOccasion(`/labs/${view.slug}/alike`, occasionOf(view), both)}>side by side</Link>
    </p>
  );
}
